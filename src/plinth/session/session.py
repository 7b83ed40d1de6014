"""One open workshop: what is planned, observed, under power and predicted, each a part of its own."""

from plinth.record.clock import Clock, now
from plinth.session.archives import Archives
from plinth.session.backups import Backups
from plinth.session.bringup import BringUp
from plinth.session.captures import Captures
from plinth.session.core import Core
from plinth.session.deciding import Deciding
from plinth.session.diary_search import DiarySearch
from plinth.session.dummy_loads import DummyLoads
from plinth.session.explaining import Explaining
from plinth.session.finding import BuildSearch
from plinth.session.fixing import Fixing
from plinth.session.instruments.instruments import InstrumentPort, Instruments
from plinth.session.listeners import Telling
from plinth.session.own_sources import OwnSources
from plinth.session.photos import Photos
from plinth.session.plan import Plan
from plinth.session.power import PowerNow
from plinth.session.power_port import PowerPort
from plinth.session.predictions import Predictions
from plinth.session.records import Records
from plinth.session.reminders import Reminders
from plinth.session.runner import Runner
from plinth.session.shelf import Shelf
from plinth.session.variants import Variants
from plinth.workshop.contents_check import damaged_contents
from plinth.workshop.errors import DamagedWorkshopError
from plinth.workshop.store import Workshop


class Session(Core):
    """The only writer to the workshop. Whoever shows it is told of changes through ``tell``.

    Itself it holds what is current; each of its parts does one thing with it, and which follows which stands here.
    """

    def __init__(
        self, workshop: Workshop, jobs: Runner, tell: Telling | None = None, clock: Clock = now,
        port: PowerPort | None = None,
    ) -> None:  # fmt: skip
        super().__init__(workshop, jobs, tell or Telling(), clock)
        self.records = Records(self)
        self.predictions = Predictions(self)
        self.plan = Plan(self, self.records, self.predictions)
        self.shelf = Shelf(self, self.records)
        self.fixing = Fixing(self, self.plan, self.shelf)
        self.finding = BuildSearch(self, self.plan, self.shelf, self.predictions)
        self.variants = Variants(self, self.records, self.plan, self.shelf)
        self.captures = Captures(self, self.records)
        self.deciding = Deciding(self, self.records, self.shelf, self.variants)
        self.bring_up = BringUp(self, self.records)
        self.loads = DummyLoads(self)
        self.instruments = Instruments(self, self.loads)
        self.power = PowerNow(self, self.records, self.bring_up, port or InstrumentPort(self.instruments))
        self.own_sources = OwnSources(self)
        self.explaining = Explaining(self, self.records)
        self.reminders = Reminders(self, self.bring_up, self.power)
        self.photos = Photos(self)
        self.archives, self.backups = Archives(self, self.records), Backups(self)
        self.diary_search = DiarySearch(self, self.records)
        self.saved_late = self.records.read_diary
        self.records.kept += [self.loads.warm, lambda _record: self.reminders.remember()]
        self.power.switched.append(self.reminders.remember)
        self.plan.load()
        if workshop.unchecked:
            self._check_contents()

    def _check_contents(self) -> None:
        """Look, behind, at the papers and pictures of a large file, which were passed over at its opening."""
        path = self.workshop.path

        def told(damaged: object) -> None:
            assert isinstance(damaged, list), "that is what was asked for"
            self.workshop.unchecked = False
            if damaged:
                sentence = str(DamagedWorkshopError(path, damaged))
                self.workshop.notice(sentence)
                self.tell.trouble(sentence)

        self.jobs.ask(
            "contents check", lambda task: damaged_contents(path, task.progress), told,
            lambda error: self.tell.trouble(f"The papers and pictures in {path} could not be looked at: {error}."),
            long=True,
        )  # fmt: skip

    def switch(self, build_id: int) -> None:
        """Go to another build; what falls due of this one is remembered."""
        self.reminders.remember()
        self.plan.switch(build_id)

    def close(self) -> None:
        """Make safe what an instrument has switched on, stop computing and close the workshop."""
        self.power.port.make_safe()
        self.instruments.disconnect()
        self.jobs.end()
        self.save_again()
        self.workshop.close()
