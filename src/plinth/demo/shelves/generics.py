"""Generic entries of the kinds that have none in their own table: usual values, every number marked as assumed."""

from plinth.builds.hookup import Hookup
from plinth.builds.modules import BiasPoint
from plinth.builds.parts import Entry as Inlet
from plinth.builds.parts import Load, Mains, Protection, VoiceCoil
from plinth.builds.supply_parts import BenchPair, Regulator, Smoothing
from plinth.demo.shelf import (
    CANDLE_12,
    CARTHORSE_300,
    EIGHT_CELLS_20,
    GREENROOM_30,
    LANTERN_100,
    PARADE_150,
)
from plinth.demo.shelves.entries import Entry, usual

_NOBODY = {"maker": "–", "claims": ()}
GENERICS: tuple[Entry, ...] = (
    usual(Mains(name="Any wall, 230 V", v_nominal_rms=230, frequency_hz=50), "v_nominal_rms", "frequency_hz"),
    usual(Inlet(name="Any inlet, 2 A slow", fuse_a_rms=2.0, fuse_kind="T")),
    usual(Smoothing(name="Any resistor and can", maker="–", r_ohm=0.22, c_f=10e-3, v_rated=50, esr_ohm=0.03)),
    usual(
        Regulator(
            name="Any regulator, 15 V", maker="–", v_out=15, v_dropout_v=2.5, i_max_a=1.0, v_in_max=35,
            r_junction_air_k_per_w=50, t_junction_max_c=125,
        )
    ),
    usual(BenchPair(name="Any bench supply, 2×30 V", rails="dual", v_rail=30, i_limit_a=3)),
    usual(EIGHT_CELLS_20.model_copy(update={"name": "Any battery of eight cells", "maker": "–"})),
    usual(CARTHORSE_300.model_copy(update={"name": "Any battery converter, 2×32 V", "maker": "–"})),
    usual(
        GREENROOM_30.model_copy(
            update=_NOBODY | {"name": "Any chip board, 30 W", "safe_area": (), "i_quiescent_stated_a": 0.05}
        )
    ),
    usual(
        CANDLE_12.model_copy(
            update=_NOBODY
            | {"name": "Any class A board, 12 W",
               "bias": BiasPoint(label="R1", listed_mv=120, r_listed_ohm=0.22, r_fitted_ohm=0.22)}
        )
    ),
    usual(LANTERN_100.model_copy(update=_NOBODY | {"name": "Any half bridge, 60 W"})),
    usual(PARADE_150.model_copy(update=_NOBODY | {"name": "Any full bridge, 80 W"})),
    usual(
        Protection(
            name="Any relay board", maker="–", mute_s=3.0, dc_threshold_v=2.0, dc_time_constant_s=0.3, coil_v=12,
            coil_ohm=270,
        )
    ),
    usual(Load(name="Any dummy, 8 Ω", r_ohm=8, r_tol=0.05, p_rated_w=100, time_constant_s=90)),
    usual(
        Load(
            name="Any loudspeaker, 8 Ω", r_ohm=8, r_tol=0.15, p_rated_w=60,
            voice_coil=VoiceCoil(r_dc_ohm=5.8, f_resonance_hz=55, q_mechanical=4, q_electrical=0.5, l_coil_h=0.6e-3),
        )
    ),
    # What earths and fuses a build is nothing to assume: it stays unknown, and unknown is not safe.
    usual(Hookup(name="Any wiring", ground="star", coupling="film", c_input_f=2.2e-6, use="music")),
)  # fmt: skip
