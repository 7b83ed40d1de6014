"""Modules of all classes; each listing with what such listings say, and now and then what cannot be."""

from plinth.builds.modules import BiasPoint, ClassABModule, ClassAModule, ClassDModule, PowerClaim, SafeAreaPoint
from plinth.demo.shelf import CANDLE_12, GREENROOM_30, LANTERN_100, PARADE_150, STAGEHAND_60
from plinth.demo.shelves.entries import Entry, priced, usual


def _stage(
    name: str,
    rails: tuple[float, float, float],
    amperes: float,
    pairs: int,
    sat: float | None,
    price: float,
    claims: tuple[tuple[float, float], ...],
    drawer: int = 0,
    **more: object,
) -> Entry:
    bias = BiasPoint(label="R17", listed_mv=18, r_listed_ohm=0.22, r_fitted_ohm=0.22, tempco_per_k=0.003)
    part = ClassABModule.model_validate(
        STAGEHAND_60.model_dump()
        | {
            "name": name, "v_rail_min": rails[0], "v_rail_nominal": rails[1], "v_rail_max": rails[2], "v_sat_v": sat,
            "r_out_ohm": round(0.44 / pairs, 3), "i_limit_a": amperes, "output_pairs": pairs, "bias": bias.model_dump(),
            "r_junction_sink_k_per_w": round(0.95 / pairs, 2),
            "claims": [{"power_w": w, "r_load_ohm": ohm} for w, ohm in claims],
        }
        | more
    )  # fmt: skip
    return part, priced(price, (2, round(0.95 * price, 2)), (10, round(0.8 * price, 2)), drawer=drawer)


def _chip(
    name: str,
    rails: tuple[float, float, float],
    amperes: float,
    price: float,
    claims: tuple[tuple[float, float], ...],
    area: tuple[tuple[float, float], ...] = (),
    **more: object,
) -> Entry:
    part = ClassABModule.model_validate(
        GREENROOM_30.model_dump()
        | {
            "name": name, "v_rail_min": rails[0], "v_rail_nominal": rails[1], "v_rail_max": rails[2],
            "i_limit_a": amperes,
            "safe_area": [SafeAreaPoint(v_device_v=v, i_a=i).model_dump() for v, i in area],
            "claims": [PowerClaim(power_w=w, r_load_ohm=ohm, definition="thd_10").model_dump() for w, ohm in claims],
        }
        | more
    )  # fmt: skip
    return part, priced(price, (2, round(0.9 * price, 2)))


AB: tuple[Entry, ...] = (
    _stage("Stagehand 30", (14, 26, 32), 6.0, 1, 2.7, 16.0, ((30, 8), (50, 4)), 2),
    _stage("Stagehand 45", (16, 32, 38), 8.0, 1, 2.8, 18.5, ((45, 8), (80, 4))),
    _stage("Stagehand 120", (24, 48, 56), 16.0, 2, 3.3, 34.0, ((110, 8), (190, 4))),
    _stage("Stagehand 200", (28, 58, 70), 24.0, 4, 3.6, 58.0, ((170, 8), (300, 4))),
    _stage("Prompter 60", (16, 35, 42), 9.0, 1, None, 14.9, ((60, 8), (120, 4)), maker="Wickstead", settle_s=None,
           i_driver_a=None, sensitivity_v_rms=0.8),
    _stage("Prompter 100", (20, 45, 55), 12.0, 2, None, 19.9, ((100, 8), (200, 4)), maker="Wickstead", gain=24.0,
           sensitivity_v_rms=1.9, r_junction_sink_k_per_w=None),
    _stage("Understudy 80", (18, 40, 48), 11.0, 2, 3.0, 27.0, ((75, 8), (130, 4)), maker="Tallowick", gain=20.0),
    _stage("Understudy 80, old etch", (18, 40, 48), 11.0, 2, 3.0, 0.0, ((75, 8),), 1, maker="Tallowick", gain=20.0,
           starts_on_rail=True, settle_s=2.6),
    usual(STAGEHAND_60.model_copy(update={"name": "Any class AB board, 50 W", "maker": "–", "claims": ()})),
)  # fmt: skip
CHIPS: tuple[Entry, ...] = (
    _chip("Greenroom 20", (8, 18, 24), 3.5, 5.9, ((20, 8), (28, 4)), ((15, 3.5), (28, 2.0), (45, 0.9))),
    _chip("Greenroom 50", (12, 30, 38), 7.0, 9.8, ((50, 8), (68, 4)), ((20, 7.0), (40, 3.4), (70, 1.1))),
    _chip("Greenroom 65", (14, 35, 42), 9.0, 12.9, ((65, 8), (100, 4)), ((25, 9.0), (45, 4.0), (80, 1.2))),
    _chip("Whistle 10", (6, 12, 18), 2.5, 3.2, ((10, 8), (15, 4)), maker="Wickstead"),
    _chip("Whistle 68", (10, 28, 36), 7.0, 4.4, ((68, 4),), maker="Wickstead", v_sat_v=None, settle_s=None),
    _chip("Greenroom 30 with own bridge", (12, 25, 32), 5.0, 11.2, ((30, 8), (45, 4)), ((20, 5.0), (60, 1.1)),
          own_rectifier=True),
)  # fmt: skip


def _class_a(
    name: str, rails: tuple[float, float, float], mv: float, pairs: int, price: float, **more: object
) -> Entry:
    bias = BiasPoint(label="R9", listed_mv=mv, r_listed_ohm=0.22, r_fitted_ohm=0.22, tempco_per_k=0.003)
    part = ClassAModule.model_validate(
        CANDLE_12.model_dump()
        | {
            "name": name, "v_rail_min": rails[0], "v_rail_nominal": rails[1], "v_rail_max": rails[2],
            "bias": bias.model_dump(), "output_pairs": pairs, "claims": [],
        }
        | more
    )  # fmt: skip
    return part, priced(price)


A: tuple[Entry, ...] = (
    _class_a("Candle 8", (10, 16, 20), 110, 2, 26.0),
    _class_a("Candle 20", (16, 24, 30), 165, 2, 34.0),
    _class_a("Candle 30", (18, 28, 34), 120, 4, 52.0),
    _class_a("Taper 6", (10, 18, 24), 330, 1, 22.0, topology="single_ended"),
    _class_a("Taper 12", (12, 22, 28), 400, 1, 28.0, topology="single_ended", settle_s=None),
)


def _class_d(
    name: str,
    bridge: str,
    rails: tuple[float, float, float],
    amperes: float,
    r_on: float,
    price: float,
    claims: tuple[tuple[float, float], ...],
    **more: object,
) -> Entry:
    like = PARADE_150 if bridge == "full" else LANTERN_100
    part = ClassDModule.model_validate(
        like.model_dump()
        | {
            "name": name, "v_rail_min": rails[0], "v_rail_nominal": rails[1], "v_rail_max": rails[2],
            "i_limit_a": amperes, "r_on_ohm": r_on, "v_ov_lockout_v": round(0.97 * rails[2]),
            "claims": [PowerClaim(power_w=w, r_load_ohm=ohm, definition="thd_10").model_dump() for w, ohm in claims],
        }
        | more
    )  # fmt: skip
    return part, priced(price, (2, round(0.93 * price, 2)))


D: tuple[Entry, ...] = (
    _class_d("Lantern 50", "half", (14, 24, 30), 8, 0.16, 15.0, ((50, 4),)),
    _class_d("Lantern 200", "half", (25, 48, 58), 18, 0.08, 33.0, ((200, 4), (120, 8))),
    _class_d("Lantern 300", "half", (30, 60, 72), 22, 0.06, 49.0, ((300, 4), (180, 8))),
    _class_d("Parade 30", "full", (8, 18, 24), 6, 0.25, 6.9, ((30, 8),)),
    _class_d("Parade 50", "full", (8, 21, 26), 7.5, 0.22, 8.4, ((50, 4),)),
    _class_d("Parade 100", "full", (10, 30, 36), 10, 0.20, 12.5, ((100, 4), (60, 8))),
    _class_d("Parade 250", "full", (14, 48, 54), 16, 0.12, 24.0, ((250, 4), (140, 8))),
    # A sum of channels and of moments that no rail gives.
    _class_d(
        "Market 600", "full", (10, 32, 36), 10, 0.22, 7.7, ((300, 4),), maker="Wickstead", r_junction_sink_k_per_w=None
    ),
)
MODULES = (*AB, *CHIPS, *A, *D)
