"""Where in the guide each page and dialog has its place: what F1 opens there. A new one is a line here."""

from plinth.desk.stage_keys import DECIDE, DIARY, INSPECT, MEASURE, PLAN, POWER_UP

OF_STAGE = {
    PLAN: "plan", INSPECT: "inspect", POWER_UP: "power-up", MEASURE: "measure", DECIDE: "decide", DIARY: "diary",
}  # fmt: skip
# By the name on a test's button.
OF_TEST = {
    "Rails": "rails", "Gain, match": "gain-match", "Clipping power": "clipping-power", "Response": "response",
    "Output impedance": "output-impedance", "Square wave": "square-wave", "Protection": "protection",
    "Mains side": "mains-side", "Hum and noise": "hum-and-noise", "Heat run": "heat-run",
}  # fmt: skip
OF_DIALOG = {
    "OriginDialog": "figures", "BenchDialog": "spreads", "NameDialog": "begin#a-build-of-your-own",
    "WiringDialog": "safety", "CannotOpen": "files", "OpeningQuestion": "files", "BackupsDialog": "files#copies",
    "MapDialog": "plan#views", "VariantsDialog": "plan#what-it-costs", "MakeupForm": "begin#a-build-of-your-own",
    "SmallPartsDialog": "plan#small-parts", "ValueDialog": "plan",
    "BillDialog": "plan#what-it-costs", "ClaimsDialog": "plan#claims", "CurveDialog": "plan#views",
    "FixDialog": "plan#margins", "ListeningDialog": "decide#by-ear", "BlindDialog": "decide#by-ear",
    "StockForm": "shelf", "ListingDialog": "shelf#a-part-of-your-own", "MeasuredDialog": "shelf#a-part-of-your-own",
    "PapersDialog": "shelf", "InstrumentsDialog": "instruments", "SpectrumPage": "instruments#live",
    "LivePage": "instruments#live", "PartForm": "shelf#a-part-of-your-own",
    "RequirementDialog": "begin#a-build-of-your-own", "ArchiveDialog": "files#archives",
    "PaperDialog": "diary#reports", "FindDialog": "shelf#a-build-around-what-you-want",
    "ReformingDialog": "power-up#re-forming", "GainDialog": "measure#gain-match", "CaptureDialog": "captures",
    "SweepDialog": "captures", "PhotoViewer": "diary", "Finder": "keys", "KeyDialog": "keys#a-key-of-your-own",
    "WaysDialog": "begin", "FoundDialog": "begin#an-amplifier-that-somebody-else-built",
}  # fmt: skip


def of_dialog(dialog: object) -> str:
    """The place of a dialog, by its class or what that is made from."""
    names = (kind.__name__ for kind in type(dialog).__mro__)
    return next((OF_DIALOG[name] for name in names if name in OF_DIALOG), "begin")
