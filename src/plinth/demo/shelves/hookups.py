"""Ways to wire and earth, preamplifiers, volume controls, loudspeaker cables, pads."""

from plinth.builds.hookup import (
    NO_CABLE,
    NO_INSULATOR,
    NO_PREAMPLIFIER,
    NO_VOLUME,
    PLAIN_HOOKUP,
    Hookup,
    Insulator,
    Preamplifier,
    SpeakerCable,
    VolumeControl,
)
from plinth.builds.stock import Stock
from plinth.demo.shelves.entries import Entry, priced, usual

_SAFE = {"fuse_in": "live", "switch_in": "both", "earth": "bonded", "reverse": "keyed", "mounting": "vertical"}
HOOKUPS: tuple[Entry, ...] = (
    (PLAIN_HOOKUP, Stock(note="nothing is said of it: unknown is not safe")),
    *(
        (Hookup.model_validate({"name": name} | said), Stock(note=note))
        for name, said, note in (
            ("Star, case bonded",
             _SAFE | {"ground": "star", "coupling": "film", "c_input_f": 2.2e-6, "unused_leg": "tied", "use": "music"},
             "every return runs to one point between the reservoirs"),
            ("Plane, case bonded",
             _SAFE | {"ground": "plane", "coupling": "film", "c_input_f": 2.2e-6, "unused_leg": "tied", "use": "music"},
             "short returns over one wide sheet of copper"),
            ("Star, ground lifted", _SAFE | {"ground": "star", "earth": "lifter", "coupling": "direct"},
             "two diodes and a resistor between circuit and case"),
            ("Stage speech, insulated",
             {"fuse_in": "live", "switch_in": "both", "earth": "insulated", "ground": "star", "reverse": "keyed",
              "coupling": "electrolytic", "c_input_f": 10e-6, "use": "speech", "mounting": "inside"},
             "for a speaker's desk"),
            ("As found in the attic",
             {"fuse_in": "neutral", "switch_in": "neutral", "earth": "none", "ground": "star", "reverse": "none",
              "unused_leg": "open", "coupling": "electrolytic", "c_input_f": 470e-9, "mounting": "inside",
              "r_led_ohm": 1000, "p_led_w": 0.25},
             "what somebody left behind; look at each line"),
        )
    ),
)  # fmt: skip
PREAMPLIFIERS: tuple[Entry, ...] = (
    (NO_PREAMPLIFIER, Stock()),
    *(
        (
            Preamplifier(name=name, maker=maker, gain=gain, r_output_ohm=ohms, v_out_max_rms=most, noise_v_rms=noise),
            priced(price, drawer=drawer),
        )
        for name, maker, gain, ohms, most, noise, price, drawer in (
            ("Prologue 4", "Hollowreed Audio", 4.0, 100.0, 8.5, 9e-6, 18.0, 1),
            ("Prologue 10", "Hollowreed Audio", 10.0, 100.0, 8.5, 19e-6, 19.5, 0),
            ("Footnote", "Tallowick", 1.0, 50.0, 2.1, 3e-6, 9.0, 0),
            ("Old mixer board", "Oldmarrow Iron", 30.0, 600.0, 6.0, 260e-6, 0.0, 1),
            ("Footnote, no sheet", "Tallowick", 3.2, None, None, None, 7.0, 0),
        )
    ),
    usual(Preamplifier(name="Any preamplifier, 3 times", maker="–", gain=3.0, r_output_ohm=100, v_out_max_rms=7.0)),
)  # fmt: skip
VOLUMES: tuple[Entry, ...] = (
    (NO_VOLUME, Stock()),
    *(
        (
            VolumeControl.model_validate(
                {"name": name, "maker": maker, "r_ohm": ohms, "law": law, "tracking_db": apart}
            ),
            priced(price, drawer=drawer),
        )
        for name, maker, ohms, law, apart, price, drawer in (
            ("Knob 10k log", "Fennock", 10e3, "log", 2.0, 4.2, 1),
            ("Knob 50k log", "Fennock", 50e3, "log", 3.0, 4.2, 2),
            ("Knob 50k linear", "Fennock", 50e3, "linear", 1.0, 3.8, 0),
            ("Knob 250k log", "Fennock", 250e3, "log", 4.0, 3.5, 1),
            ("Steps 20k", "Copperfinch", 20e3, "log", 0.2, 46.0, 0),
        )
    ),
    usual(VolumeControl(name="Any volume control, 20k", maker="–", r_ohm=20e3, tracking_db=3.0)),
)  # fmt: skip
CABLES: tuple[Entry, ...] = (
    (NO_CABLE, Stock()),
    *(
        (
            SpeakerCable(name=name, maker=maker, length_m=length, a_m2=area, i_connector_a=amperes, c_per_m_f=each),
            priced(price, drawer=drawer),
        )
        for name, maker, length, area, amperes, each, price, drawer in (
            ("Zip cord 3 m", "Wickstead", 3.0, 0.75e-6, 5.0, 60e-12, 2.4, 3),
            ("Stage lead 10 m", "Wickstead", 10.0, 2.5e-6, 30.0, 90e-12, 31.0, 2),
            ("Bell wire 12 m", "Wickstead", 12.0, 0.22e-6, 3.0, 50e-12, 0.0, 1),
            ("Heavy 5 m", "Copperfinch", 5.0, 4e-6, 30.0, 85e-12, 24.0, 0),
            ("Woven flat 4 m", "Copperfinch", 4.0, 3e-6, 15.0, 1.8e-9, 88.0, 0),
        )
    ),
    usual(SpeakerCable(name="Any cable, 3 m", maker="–", length_m=3.0, a_m2=1.5e-6, i_connector_a=15)),
)  # fmt: skip
PADS: tuple[Entry, ...] = (
    (NO_INSULATOR, Stock()),
    *(
        (
            Insulator(name=name, maker=maker, r_k_per_w=rth, v_rated=volts),
            priced(price, (10, 0.8 * price), drawer=drawer),
        )
        for name, maker, rth, volts, price, drawer in (
            ("Mica and paste", "Fennock", 0.4, 1000.0, 0.3, 12),
            ("Grey pad", "Fennock", 0.9, 4000.0, 0.45, 6),
            ("Ceramic plate", "Copperfinch", 0.2, 6000.0, 1.9, 0),
            ("Pad, no sheet", "Tallowick", 1.4, None, 0.1, 20),
        )
    ),
    usual(Insulator(name="Any pad", maker="–", r_k_per_w=0.8, v_rated=2500)),
)  # fmt: skip
HOOKED = (*HOOKUPS, *PREAMPLIFIERS, *VOLUMES, *CABLES, *PADS)
