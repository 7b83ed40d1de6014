"""The builds of the demo workshop."""

from plinth.builds.build import Build, LinearSupply
from plinth.builds.parts import Entry, HeatSink, Mains, Protection, Rectifier
from plinth.demo import shelf

THEATRE_MAINS = Mains(name="Theatre workshop, socket ring 2", v_nominal_rms=230, frequency_hz=50)

STAGE_PAIR = Build(
    name="Stage pair",
    note=(
        "Plays left and right of the puppet stage on tour. Left board is up and half measured; "
        "right board is soldered and waits."
    ),
    mains=THEATRE_MAINS,
    entry=Entry(name="Inlet with fuse and switch", fuse_a_rms=2.0, fuse_kind="T"),
    supply=LinearSupply(
        transformer=shelf.RING_225,
        rectifier=Rectifier(name="Bridge 25", maker="Wickstead", bridges="two", diode="silicon", i_rated_a=25,
                            v_forward_v=0.78, r_dynamic_ohm=0.014),
        reservoir=shelf.CAN_10M_50,
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
    protection=Protection(name="Hush relay", maker="Copperfinch", mute_s=2.4, dc_threshold_v=1.6),
    load=shelf.DUMMY_8,
    loads=(shelf.DUMMY_8, shelf.DUMMY_4),
)  # fmt: skip

BUILDS = (STAGE_PAIR, REHEARSAL_ROOM)
