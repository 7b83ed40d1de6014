"""A flat top, the house's wires, leakage: unstated they are in the spread of what flows from the wall; stated in it."""

import math

import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.predict.inputs import inputs_of
from plinth.predict.mains_unstated import MOVED
from plinth.predict.solve import solve
from tests.family import FAMILY
from tests.sample_builds import linear

LINEAR = ("class AB on linear", "class A on linear with chokes", "chip on linear, unequal", "class AB on dual mono",
          "class D full bridge on linear")  # fmt: skip
LABELS = {"flat top of the mains", "wires of the house", "leakage of the transformer"}


def of_200_va(name: str, **more: object) -> Build:
    """A linear bank of some 200 VA, as those are that were read."""
    build = FAMILY[name]
    part = linear(build).transformer.model_copy(update={"va": 200.0, **more})
    return build.model_copy(update={"supply": build.supply.model_copy(update={"transformer": part})})


@pytest.mark.parametrize("name", LINEAR)
def test_a_wall_with_a_flat_top_and_leakage_lies_inside_every_band(name: str) -> None:
    """A top flattened by 4 % and 300 µH a half, predicted as such, lie inside the bands of what is not said so."""
    plain = solve(of_200_va(name))
    # One winding of the same rating has half of the volts squared over its amperes.
    henries = 150e-6 if plain.build.supply.single_rail else 300e-6
    real = solve(of_200_va(name, leakage_h=henries), Situation(third_harmonic=0.04))
    moved = 0
    for key in MOVED:
        if plain.get(key) is None:
            continue
        figure, there = plain[key], real[key].value
        assert figure.low <= there <= figure.high, (key, figure.low, there, figure.high)
        assert figure.estimated
        moved += abs(there / figure.value - 1.0) > 0.03
    assert moved >= 3, "it matters"


@pytest.mark.parametrize("name", LINEAR)
def test_what_is_stated_is_not_counted_as_unknown(name: str) -> None:
    def labels(build: Build, **situation: object) -> set[str]:
        figure = solve(build, Situation.model_validate(situation))["primary_rms_a"]
        return {one.label for one in figure.contributions} & LABELS

    assert labels(FAMILY[name]) == LABELS
    assert labels(FAMILY[name], third_harmonic=0.03) == LABELS - {"flat top of the mains"}
    assert labels(of_200_va(name, leakage_h=100e-6)) == LABELS - {"leakage of the transformer"}


def test_other_figures_and_other_supplies_know_nothing_of_it() -> None:
    # A flat top only lowers a rail, so it says nothing of the highest that comes.
    highest = solve(FAMILY["class AB on linear"])["rail_no_load_high_v"]
    assert not {one.label for one in highest.contributions} & LABELS
    for name in ("class AB on corrected switcher", "class AB on bench", "class D half bridge on battery"):
        for figure in solve(FAMILY[name]).figures.values():
            assert not {one.label for one in figure.contributions} & LABELS


@pytest.mark.parametrize("key", ["primary_peak_a", "power_factor", "clip_power_w", "rail_plus_mean_v"])
def test_all_at_their_whole_reach_the_end_of_the_band(key: str) -> None:
    """They come together, so twice the root of their squares is what those of one direction move it together."""
    build = FAMILY["class AB on linear"]
    before = solve(build)[key]
    part = linear(build).transformer
    regulation = inputs_of(build)["regulation"].value
    henries = 0.02 * part.v_secondary_rms**2 / (part.va / 2.0) / (2.0 * math.pi * 50.0)
    wired = part.model_copy(update={"regulation": regulation + 0.5 * part.va / part.v_primary_rms**2})
    leaky = part.model_copy(update={"leakage_h": henries})
    whole = [
        solve(build, Situation(third_harmonic=0.05))[key].value - before.value,
        *(
            solve(build.model_copy(update={"supply": build.supply.model_copy(update={"transformer": one})}))[key].value
            - before.value
            for one in (wired, leaky)
        ),
    ]
    rows = [one for one in before.contributions if one.label in LABELS]
    assert len(rows) == 3
    furthest = max(sum(one for one in whole if one > 0.0), -sum(one for one in whole if one < 0.0))
    assert 2.0 * math.hypot(*(one.u_figure for one in rows)) == pytest.approx(furthest, rel=0.04)
    largest = max(rows, key=lambda one: abs(one.u_figure))
    assert largest.label == ("leakage of the transformer" if key == "power_factor" else "flat top of the mains")
    row = next(one for one in rows if one.label == "leakage of the transformer")
    assert row.u_input == pytest.approx(0.5 * henries, rel=1e-6)


def test_a_clip_power_under_a_flat_top_is_inside_its_band_and_not_by_half_as_much_again() -> None:
    build = of_200_va("class AB on linear")
    figure = solve(build)["clip_power_w"]
    flat = solve(build, Situation(third_harmonic=0.05))["clip_power_w"].value
    assert 0.06 < 1.0 - flat / figure.value < 0.11
    assert figure.low < flat
    assert figure.spread < 0.14 * figure.value


@pytest.mark.parametrize(("volts", "ohm"), [(230.0, 0.5), (120.0, 0.25)])
@pytest.mark.parametrize(("core", "share"), [("toroid", 0.02), ("ei", 0.04)])
def test_wires_go_with_the_mains_and_leakage_with_the_core(volts: float, ohm: float, core: str, share: float) -> None:
    build = of_200_va("class AB on linear", core=core, v_primary_rms=volts)
    assert build.mains is not None
    here = build.model_copy(update={"mains": build.mains.model_copy(update={"v_nominal_rms": volts})})
    rows = {one.label: one.u_input for one in solve(here)["primary_rms_a"].contributions}
    assert rows["wires of the house"] == pytest.approx(0.5 * ohm)
    part = linear(here).transformer
    henries = share * part.v_secondary_rms**2 / 100.0 / (2.0 * math.pi * 50.0)
    assert rows["leakage of the transformer"] == pytest.approx(0.5 * henries, rel=1e-6)
