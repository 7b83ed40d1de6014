"""A transformer without a label: what is estimated of it holds the truth of known ones inside its bands."""

import pytest

from plinth.builds.properties import How, how_known
from plinth.builds.stations import with_part
from plinth.builds.supply_parts import Transformer
from plinth.demo.builds import STAGE_PAIR
from plinth.demo.shelf import WHOLE
from plinth.physics.mains.transformer import winding_resistance_ohm
from plinth.predict.solve import solve
from plinth.shelf.from_measured import MeasuredTransformer, transformer_from
from plinth.units.errors import QuantityError

# Copper gains 0.39 % of its resistance with each kelvin from 20 degrees on.
FIFTY_KELVIN_WARMER = 1.195
KNOWN = [part for part, _ in WHOLE if isinstance(part, Transformer) and part.regulation is not None]


def measured_of(part: Transformer, **more: float) -> MeasuredTransformer:
    """What a meter would show of a known one, its copper shared evenly between primary and secondary."""
    assert part.regulation is not None
    v_open = part.v_secondary_rms * (1.0 + part.regulation)
    r = winding_resistance_ohm(part.v_secondary_rms, part.i_rated_a, part.regulation) / FIFTY_KELVIN_WARMER
    ratio = v_open / part.v_primary_rms
    return MeasuredTransformer(
        v_open, part.v_primary_rms, part.secondaries, part.core, r / 2.0, r / 2.0 / (part.halves * ratio**2), **more
    )


@pytest.mark.parametrize("part", KNOWN, ids=lambda part: part.name)
def test_a_known_one_lies_inside_its_own_bands(part: Transformer) -> None:
    found = transformer_from(measured_of(part), "mine")
    tol = {one.field: one.tol for one in found.told}
    assert found.v_primary_rms == part.v_primary_rms
    assert tol["va"] is not None
    # Small ones differ more than any rule; the others lie inside what is said of them.
    if part.va >= 50.0:
        assert found.va == pytest.approx(part.va, rel=2.0 * tol["va"])
    assert found.v_secondary_rms == pytest.approx(part.v_secondary_rms, rel=0.06)


def test_the_weight_of_a_ring_tells_its_rating_and_the_copper_its_regulation() -> None:
    part = next(one for one in KNOWN if one.name == "Ring 330")
    found = transformer_from(measured_of(part, weight_kg=(330.0 / 90.0) ** (1.0 / 1.2)), "mine")
    assert found.va == pytest.approx(330.0, rel=0.01)
    assert found.regulation == pytest.approx(0.06, rel=0.03)
    assert found.v_secondary_rms == pytest.approx(28.0, rel=0.005)


def test_rails_without_load_are_those_that_were_measured() -> None:
    """Whatever the rating is taken for, volts without load stay what the meter showed."""
    for kg in (1.0, 2.0, 4.0):
        found = transformer_from(MeasuredTransformer(27.4, 230.0, weight_kg=kg), "mine")
        assert found.regulation is not None
        assert found.v_secondary_rms * (1.0 + found.regulation) == pytest.approx(27.4, rel=0.01)
        build = with_part(STAGE_PAIR, "supply.transformer", found)
        assert solve(build)["rail_no_load_v"].value == pytest.approx(27.4 * 2.0**0.5 - 1.3, abs=0.8)


def test_every_guess_is_marked_and_widens_the_result() -> None:
    found = transformer_from(MeasuredTransformer(27.4, 230.0, weight_kg=2.0), "mine")
    assert {how_known(found, path) for path in ("va", "regulation", "v_secondary_rms")} == {How.ESTIMATED}
    assert how_known(found, "v_primary_rms") is How.MEASURED
    sure = STAGE_PAIR
    unsure = with_part(STAGE_PAIR, "supply.transformer", found)
    assert solve(unsure)["clip_power_w"].u > solve(sure)["clip_power_w"].u
    assert solve(unsure)["clip_power_w"].estimated


def test_a_laminated_core_by_its_middle_leg() -> None:
    found = transformer_from(MeasuredTransformer(20.0, 230.0, core="ei", core_cm2=11.0), "mine")
    assert found.va == pytest.approx(100.0)


@pytest.mark.parametrize(
    "measured",
    [
        MeasuredTransformer(27.4, 230.0),
        MeasuredTransformer(0.1, 230.0, weight_kg=2.0),
        MeasuredTransformer(27.4, 5.0, weight_kg=2.0),
        MeasuredTransformer(27.4, 230.0, weight_kg=200.0),
        MeasuredTransformer(27.4, 230.0, core_cm2=10.0),
        MeasuredTransformer(27.4, 230.0, core="ei", core_cm2=0.01),
        MeasuredTransformer(27.4, 230.0, r_half_ohm=20.0, weight_kg=4.0),
        MeasuredTransformer(27.4, 230.0, r_half_ohm=5000.0),
    ],
)
def test_what_cannot_be_says_so(measured: MeasuredTransformer) -> None:
    with pytest.raises(QuantityError, match="expected"):
        transformer_from(measured, "mine")
