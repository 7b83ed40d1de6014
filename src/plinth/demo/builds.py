"""The builds of the demo workshop, read from their files."""

from plinth.builds.hookup import Hookup
from plinth.builds.parts import HeatSink
from plinth.demo.data_files import build

STAGE_PAIR = build("stage-pair")
REHEARSAL_ROOM = build("rehearsal-room")
FOYER = build("foyer")
STREET_BOX = build("street-box")
MARKET_BOX = build("market-box")

# What the stage pair could be: on a larger sink, its wiring said.
COOLER_PAIR = STAGE_PAIR.model_copy(
    update={
        "name": "Stage pair, cooler",
        "note": "",
        "sink": HeatSink(name="Comb 300", r_k_per_w=0.45, t_limit_c=75, heat_capacity_j_per_k=840),
        "hookup": Hookup(
            name="Star, case bonded", fuse_in="live", switch_in="both", earth="bonded", ground="star",
            unused_leg="tied", coupling="film", c_input_f=2.2e-6, reverse="keyed", mounting="vertical", use="music",
        ),
    }
)  # fmt: skip
BUILDS = (STAGE_PAIR, REHEARSAL_ROOM, FOYER, STREET_BOX, MARKET_BOX)
