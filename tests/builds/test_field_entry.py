"""Fields of parts as they are written and typed: units of the trade, and what may mean two things."""

import pytest

from plinth.builds.field_entry import field_text, field_value
from plinth.builds.fields import PartField, part_fields
from plinth.builds.hookup import SpeakerCable
from plinth.builds.parts import Part
from plinth.builds.properties import value_at
from plinth.demo import shelf
from plinth.units.errors import AmbiguousError, QuantityError
from tests.family import FAMILY
from tests.sample_builds import linear

CABLE = SpeakerCable(name="Cable", maker="Copperfinch", length_m=4.0, a_m2=2.5e-6)
CHOKES = linear(FAMILY["class AB on linear with chokes"])
assert CHOKES.smoothing is not None


def field(part: Part, path: str) -> PartField:
    return next(one for one in part_fields(part) if one.path == path)


@pytest.mark.parametrize(
    ("part", "path", "text"),
    [
        (CABLE, "a_m2", "2.5 mm²"), (CABLE, "length_m", "4 m"), (CHOKES.smoothing, "l_h", "2.2 mH"),
        (shelf.CARTHORSE_300, "a_cable_m2", "16 mm²"), (shelf.CARTHORSE_300, "d_wire_m", "0.5 mm"),
    ],
)  # fmt: skip
def test_a_field_is_written_in_the_unit_of_the_trade(part: Part, path: str, text: str) -> None:
    shown = field_text(field(part, path), value_at(part, path))
    assert shown.split()[1] == text.split()[1]
    assert field_value(field(part, path), shown) == pytest.approx(value_at(part, path), rel=1e-5)


@pytest.mark.parametrize(
    ("part", "path", "typed", "value"),
    [
        (CABLE, "a_m2", "120 mm2", 120e-6), (CABLE, "a_m2", "1,5", 1.5e-6), (CABLE, "a_m2", "0.25 cm²", 25e-6),
        (CABLE, "length_m", "350 cm", 3.5), (CHOKES.smoothing, "l_h", "8 mH", 8e-3),
        (CHOKES.smoothing, "l_h", "680uH", 680e-6), (shelf.STAGEHAND_60, "slew_v_per_s", "18", 18e6),
        (shelf.STAGEHAND_60, "slew_v_per_s", "18 V/us", 18e6), (shelf.STAGEHAND_60, "slew_v_per_s", "2e7 V/s", 20e6),
        (shelf.CARTHORSE_300, "turns_primary", "3+3", 3.0), (shelf.CARTHORSE_300, "d_wire_m", "0,4 mm", 4e-4),
        (shelf.CAN_10M_50, "c_f", "4700u", 4.7e-3),
    ],
)  # fmt: skip
def test_a_field_is_typed_as_it_is_spoken(part: Part, path: str, typed: str, value: float) -> None:
    assert field_value(field(part, path), typed) == pytest.approx(value)


@pytest.mark.parametrize(
    ("part", "path", "typed", "offers"),
    [
        (shelf.CAN_10M_50, "c_f", "0.3", ("0.3 µF", "0.3 mF", "0.3 F")),
        (CHOKES.smoothing, "l_h", "8", ("8 mH", "8 H")),
        (shelf.CAN_10M_50, "c_f", "2x10000u", ("20.0 mF", "10.0 mF")),
    ],
)  # fmt: skip
def test_what_may_be_two_things_is_asked_with_both_to_type(
    part: Part, path: str, typed: str, offers: tuple[str, ...]
) -> None:
    with pytest.raises(AmbiguousError) as asked:
        field_value(field(part, path), typed)
    for offer in offers:
        assert offer in str(asked.value)
        assert isinstance(field_value(field(part, path), offer), float)


def test_amperes_of_a_small_transformer_are_told_in_volt_amperes() -> None:
    small = shelf.RING_225.model_copy(update={"v_secondary_rms": 15.0, "secondaries": "two"})
    with pytest.raises(QuantityError, match=r"2 × 15 V that is 4.5 VA"):
        field_value(field(small, "va"), "150 mA", small)
    with pytest.raises(QuantityError, match="alike"):
        field_value(field(shelf.CARTHORSE_300, "turns_primary"), "3+4")


def test_nothing_that_is_shown_of_any_part_is_in_a_unit_nobody_says() -> None:
    """No 1e-05 H, no 1.8e+07 V/s, no square metres of cable: over every part of the shelf."""
    for part in (*shelf.SHELF, CABLE):
        for one in part_fields(part):
            text = field_text(one, value_at(part, one.path))
            assert "e-0" not in text, (part.name, one.path, text)
            assert "e+0" not in text, (part.name, one.path, text)
            assert not text.endswith((" m2", " m²", " V/s")), (part.name, one.path, text)
