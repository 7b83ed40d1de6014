"""Listings read in several styles, with the words each thing came from; what contradicts itself is said."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.builds.modules import ClassABModule, ClassDModule
from plinth.builds.parts import Part
from plinth.builds.properties import How, how_known
from plinth.builds.supply_parts import Reservoir, Transformer
from plinth.shelf.listing.part import part_from, usual_part
from plinth.shelf.listing.read import KINDS, guess_kind, read_listing

TABLE = """Toroidal transformer 225VA
Primary:            230 V
Secondary:          2*25V
Secondary current:  4,5 A each
Regulation:         8,5 %"""
SENTENCE = "This EI-core transformer delivers 200 VA from a 230V primary; output 24-0-24 V, regulation about 9.5%."
MODULE = """Quill 100 amplifier module, class AB
Supply voltage: ±20 ... ±45 V
Output power: 100W into 8 ohms, 190 W (4 ohm)
Gain: 24   Sensitivity: 1.18 V
Frequency response 10 Hz - 100 kHz
Quiescent: 22 mV across 0.22 ohm, quiescent current 100 mA
Input impedance 47 kΩ"""


def values(text: str, kind: type[Part]) -> dict[str, float | str]:
    return {one.path: one.value for one in read_listing(text, kind).properties}


def test_a_table_with_decimal_commas() -> None:
    listing = read_listing(TABLE, Transformer)
    assert values(TABLE, Transformer) == {
        "core": "toroid", "va": 225.0, "v_primary_rms": 230.0, "secondaries": "two", "v_secondary_rms": 25.0,
        "regulation": pytest.approx(0.085),
    }  # fmt: skip
    assert next(one for one in listing.found if one.path == "regulation").words == "Regulation: 8,5 %"
    assert listing.contradictions == ()


def test_a_sentence() -> None:
    assert values(SENTENCE, Transformer) == {
        "core": "ei", "va": 200.0, "v_primary_rms": 230.0, "secondaries": "centre_tap", "v_secondary_rms": 24.0,
        "regulation": pytest.approx(0.095),
    }  # fmt: skip


@pytest.mark.parametrize(
    ("title", "secondaries", "volts"),
    [
        ("Toroid 160VA 2*25V", "two", 25.0),
        ("Toroid 160VA 2x25V", "two", 25.0),
        ("Toroid 160VA 2 × 25,5V", "two", 25.5),
        ("Toroid 160VA dual 25V", "two", 25.0),
        ("Toroid 160VA 25-0-25", "centre_tap", 25.0),
        ("Toroid 160VA 25V-0-25V", "centre_tap", 25.0),
    ],
)
def test_a_title_line(title: str, secondaries: str, volts: float) -> None:
    found = values(title, Transformer)
    assert found == {"core": "toroid", "va": 160.0, "secondaries": secondaries, "v_secondary_rms": volts}


@pytest.mark.parametrize(
    ("words", "path", "value"),
    [
        ("10mF 63V", "c_f", 0.01),
        ("10000uF 63V", "c_f", 0.01),
        ("4700 µF", "c_f", 4.7e-3),
        ("ESR: 22 mΩ", "esr_ohm", 0.022),
        ("ESR 0,022 ohm", "esr_ohm", 0.022),
        ("ripple current 7,4 A", "i_ripple_rated_a", 7.4),
        ("ripple 7400 mA", "i_ripple_rated_a", 7.4),
    ],
)
def test_a_capacitor_in_any_size_of_unit(words: str, path: str, value: float) -> None:
    assert values(words, Reservoir)[path] == pytest.approx(value)


@pytest.mark.parametrize(
    ("words", "path", "value"),
    [
        ("supply ±35V", "v_rail_nominal", 35.0),
        ("supply +/-35 V", "v_rail_nominal", 35.0),
        ("rails ±20 to ±45V", "v_rail_max", 45.0),
        ("Gain: 26 dB", "gain", 19.95),
        ("gain of 20 times", "gain", 20.0),
        ("sensitivity 775 mV", "sensitivity_v_rms", 0.775),
        ("Input impedance 47k", "r_input_ohm", 47e3),
        ("response 5 Hz to 60 kHz", "f_high_hz", 60e3),
        ("minimum load 4 ohm", "r_load_min_ohm", 4.0),
        ("quiescent current 65 mA", "i_quiescent_stated_a", 0.065),
    ],
)
def test_a_module(words: str, path: str, value: float) -> None:
    assert values(words, ClassABModule)[path] == pytest.approx(value, rel=1e-3)


def test_a_sound_listing_contradicts_nothing() -> None:
    listing = read_listing(MODULE, ClassABModule)
    assert listing.contradictions == ()
    assert [(one.power_w, one.r_load_ohm) for one in listing.claims] == [(100.0, 8.0), (190.0, 4.0)]


# Each with the number that is near enough still, and the one that is not.
@pytest.mark.parametrize(
    ("kind", "sound", "wrong", "says"),
    [
        (Transformer, "200 VA 2x25V, output 4 A each", "200 VA 2x25V, output 3.5 A each", "175 VA"),
        # 45² / 16 = 126.6 W of a clean sine; where nobody says how clipping is meant, 10 % of distortion may be.
        (ClassABModule, "±45 V, 160 W into 8 ohm", "±45 V, 166 W into 8 ohm", "not possible on the ±45 V"),
        (
            ClassABModule,
            "gain 24, sensitivity 1.18 V, 100 W into 8 ohm",
            "gain 24, sensitivity 1.9 V, 100 W into 8 ohm",
            "one of the three is not so",
        ),
        (
            ClassABModule,
            "22 mV across 0.22 ohm, quiescent current 0.1 A",
            "22 mV across 0.22 ohm, quiescent current 0.05 A",
            "another resistor is meant",
        ),
        (ClassABModule, "class AB, efficiency 78 %", "class AB, efficiency 79 %", "78.5 %"),
        (ClassABModule, "class A, efficiency 50 %", "class A, efficiency 51 %", "50.0 %"),
        (ClassDModule, "class D, efficiency 92 %", "class A, efficiency 92 %", "50.0 %"),
        (ClassABModule, "THD 0.003% @ 1kHz 50W into 8 ohm", "THD 0.003% @ 1kHz 50W", "without the load"),
        (ClassABModule, "40 W into 8 ohm", "40 W into 8 ohm, 1000 W PMPO", "Music power"),
        (Reservoir, "10 mF 63 V", "10 mF 63 V or 8.2 mF 63 V", "Said in 2 ways"),
    ],
)
def test_what_contradicts_itself_is_said(kind: type[Part], sound: str, wrong: str, says: str) -> None:
    assert read_listing(sound, kind).contradictions == ()
    assert any(says in one for one in read_listing(wrong, kind).contradictions)


@pytest.mark.parametrize(
    ("text", "kind"),
    [
        (TABLE, Transformer), (SENTENCE, Transformer), (MODULE, ClassABModule),
        ("Class D board, full bridge", ClassDModule), ("snap-in electrolytic 10 mF", Reservoir), ("a good book", None),
    ],
)  # fmt: skip
def test_the_kind_is_told_from_the_words(text: str, kind: type[Part] | None) -> None:
    assert guess_kind(text) is kind


@pytest.mark.parametrize("kind", KINDS)
def test_a_broken_listing_finds_nothing_and_falls_nowhere(kind: type[Part]) -> None:
    for text in ("", "VA V 2x V ±V THD % @", "\0\udcff", "1" * 5000, "9" * 400 + " VA", "2x" * 5000 + "25V"):
        listing = read_listing(text, kind)
        assert isinstance(listing.contradictions, tuple)


@given(st.text(max_size=200))
def test_any_text_is_borne(text: str) -> None:
    for kind in KINDS:
        for one in read_listing(text, kind).found:
            assert one.words


def test_what_is_accepted_is_stated_with_its_words_and_the_rest_is_assumed() -> None:
    listing = read_listing(TABLE, Transformer)
    accepted = [one for one in listing.properties if one.path != "va"]
    part = part_from(listing, accepted, "Listed 225")
    assert isinstance(part, Transformer)
    assert part.v_secondary_rms == 25.0
    assert part.regulation == pytest.approx(0.085)
    usual = usual_part(Transformer)
    assert isinstance(usual, Transformer)
    assert part.va == usual.va
    told = {one.field: one for one in part.told}
    assert (told["v_secondary_rms"].how, told["v_secondary_rms"].source) == (How.STATED, "listing: 2*25V")
    assert how_known(part, "va") is How.ASSUMED


def test_claims_of_a_listing_become_claims_of_the_part() -> None:
    listing = read_listing(MODULE, ClassABModule)
    taken = [*listing.properties, *(one for one in listing.found if one.path == "claim")]
    part = part_from(listing, taken, "Quill 100")
    assert isinstance(part, ClassABModule)
    assert [(one.power_w, one.r_load_ohm) for one in part.claims] == [(100.0, 8.0), (190.0, 4.0)]
    assert part.bias is not None
    assert part.bias.listed_mv == pytest.approx(22.0)
    without = part_from(listing, listing.properties, "Quill 100")
    assert isinstance(without, ClassABModule)
    assert without.claims == ()
