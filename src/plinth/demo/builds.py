"""The builds of the demo workshop."""

from plinth.builds.build import Build
from plinth.builds.hookup import Hookup
from plinth.builds.parts import Entry, HeatSink, Mains, Protection
from plinth.builds.supplies import BatterySupply, InputSupply, LinearSupply, SwitcherSupply
from plinth.builds.supply_parts import Rectifier
from plinth.demo import shelf

THEATRE_MAINS = Mains(name="Theatre workshop, socket ring 2", v_nominal_rms=230, frequency_hz=50)

STAGE_PAIR = Build(
    name="Stage pair",
    note=(
        "Plays left and right of the puppet stage on tour, with a whole supply for each side and small regulated ones "
        "for the input stages. Left board is up and half measured; right board is soldered and waits."
    ),
    mains=THEATRE_MAINS,
    entry=Entry(name="Inlet with fuse and switch", fuse_a_rms=2.0, fuse_kind="T"),
    supply=LinearSupply(
        transformer=shelf.RING_225,
        rectifier=Rectifier(name="Bridge 25", maker="Wickstead", bridges="two", diode="silicon", i_rated_a=25,
                            v_forward_v=0.78, r_dynamic_ohm=0.014),
        reservoir=shelf.CAN_10M_50,
        per_channel=True,
        input_supply=InputSupply(
            transformer=shelf.PRINTED_15,
            rectifier=Rectifier(name="Bridge 1", maker="Wickstead", bridges="two", diode="silicon", i_rated_a=1),
            reservoir=shelf.SMALL_1M_50,
            regulator=shelf.HUSHED_15,
            i_load_a=0.038,
        ),
    ),
    module=shelf.STAGEHAND_60,
    channels=("left", "right"),
    sink=HeatSink(name="Side cheeks of the case", r_k_per_w=0.48, t_limit_c=75, heat_capacity_j_per_k=900),
    protection=Protection(name="Hush relay", maker="Copperfinch", mute_s=2.4),
    load=shelf.DUMMY_4,
    loads=(shelf.DUMMY_8, shelf.DUMMY_4),
)  # fmt: skip

REHEARSAL_ROOM = Build(
    name="Rehearsal room",
    note="Two chip boards in the case of an old record player. Speech and piano for the rehearsals.",
    mains=THEATRE_MAINS,
    entry=Entry(name="Inlet with fuse and switch", fuse_a_rms=1.0, fuse_kind="T"),
    supply=LinearSupply(
        transformer=shelf.STACK_120,
        rectifier=Rectifier(name="Bridge 8", maker="Wickstead", bridges="one", diode="silicon", i_rated_a=8),
        reservoir=shelf.SMALL_4M7_35,
    ),
    module=shelf.GREENROOM_30,
    channels=("left", "right"),
    sink=HeatSink(name="Steel back plate", r_k_per_w=1.3, t_limit_c=75, heat_capacity_j_per_k=480),
    protection=Protection(name="Hush relay, both sides", maker="Copperfinch", mute_s=2.4, dc_threshold_v=1.6,
                          dc_time_constant_s=0.33, coil_v=12, coil_ohm=270, coils=2, coil_wiring="series",
                          r_dropper_ohm=82, p_dropper_rated_w=0.5, contact_dc_v=30, contact_dc_a=8),
    load=shelf.DUMMY_8,
    loads=(shelf.DUMMY_8, shelf.DUMMY_4),
)  # fmt: skip

FOYER = Build(
    name="Foyer",
    note="One class A pair for the foyer piano tapes. Quiet because of the chokes, and warm in summer.",
    mains=THEATRE_MAINS,
    entry=Entry(name="Inlet with fuse, switch and soft start", fuse_a_rms=1.6, fuse_kind="T", fuse_i2t_a2s=14,
                r_soft_ohm=33, soft_bypass_s=0.6),
    supply=LinearSupply(
        transformer=shelf.RING_250,
        rectifier=Rectifier(name="Bridge 25", maker="Wickstead", bridges="two", diode="silicon", i_rated_a=25,
                            v_forward_v=0.78, r_dynamic_ohm=0.014),
        reservoir=shelf.CAN_15M_35,
        smoothing=shelf.CHOKE_2M2,
    ),
    module=shelf.CANDLE_12,
    channels=("left", "right"),
    sink=HeatSink(name="Ribbed cheeks, both sides", r_k_per_w=0.42, t_limit_c=65, heat_capacity_j_per_k=2600),
    protection=Protection(name="Hush relay", maker="Copperfinch", mute_s=2.4, dc_threshold_v=1.6),
    load=shelf.DUMMY_8,
    loads=(shelf.DUMMY_8, shelf.DUMMY_4),
)  # fmt: skip

STREET_BOX = Build(
    name="Street box",
    note="Two half-bridge modules on a battery converter, for shows where there is no socket.",
    mains=None,
    entry=Entry(name="Blade fuse at the battery", fuse_a_rms=30, fuse_kind="F"),
    supply=BatterySupply(
        battery=shelf.EIGHT_CELLS_20, converter=shelf.CARTHORSE_300, reservoir=shelf.LOW_4M7_50,
    ),
    module=shelf.LANTERN_100,
    channels=("left", "right"),
    sink=HeatSink(name="Lid of the box", r_k_per_w=1.9, t_limit_c=70, heat_capacity_j_per_k=700),
    protection=Protection(name="Hush relay", maker="Copperfinch", mute_s=2.4, dc_threshold_v=1.6),
    load=shelf.DUMMY_4_BIG,
    loads=(shelf.DUMMY_8, shelf.DUMMY_4_BIG),
)  # fmt: skip

MARKET_BOX = Build(
    name="Market box",
    note="The street box's sister for market halls: full-bridge modules on a mains switcher. Both wires live.",
    mains=THEATRE_MAINS,
    entry=Entry(name="Inlet with fuse, filter and switch", fuse_a_rms=3.15, fuse_kind="T"),
    supply=SwitcherSupply(switcher=shelf.SHUNTER_36, reservoir=shelf.LOW_2M2_63),
    module=shelf.PARADE_150,
    channels=("left", "right"),
    sink=HeatSink(name="Lid of the box", r_k_per_w=1.9, t_limit_c=70, heat_capacity_j_per_k=700),
    protection=Protection(name="Muting in the modules", maker="Copperfinch", mute_s=0.5),
    load=shelf.DUMMY_4_BIG,
    loads=(shelf.DUMMY_8, shelf.DUMMY_4_BIG),
)  # fmt: skip

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
