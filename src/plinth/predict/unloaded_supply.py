"""The rails of a build's own supply at rest, before anything plays: alone, and with one channel's modules on them."""

import dataclasses
import functools
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE
from plinth.predict.at_rest import at_rest
from plinth.predict.circuits import circuit_of
from plinth.predict.estimates import OF_THE_MAINS
from plinth.predict.inputs import inputs_of
from plinth.predict.lamp_outlook import one_channel
from plinth.predict.propagate import combined, contributions
from plinth.predict.source_chain import ahead_of


@dataclasses.dataclass(frozen=True)
class OwnRails:
    """Means, V, of the lower and the higher rail, with the standard uncertainty of the lower one; the larger ripple."""

    low_v: float
    high_v: float
    u_v: float
    ripple_v_pp: float


@functools.lru_cache(maxsize=64)
def own_rails(build: Build, board: bool) -> OwnRails:
    """At nominal mains or battery, with one channel's modules at rest where ``board``. Raises PhysicsError.

    The mains of the day counts for its spread as well, but behind a regulated switcher or converter.
    """
    single = one_channel(build)
    situation = Situation() if board else Situation(rail_load_a=0.0)
    inputs = inputs_of(single)

    def at(values: Mapping[str, float], here: Situation = situation) -> dict[str, float]:
        circuit = circuit_of(single, here, ahead_of(single).before(values))
        rails = at_rest(circuit, COARSE).rails
        means = [rail.mean(rail.v_node) for rail in rails]
        return {"low": min(means), "high": max(means), "ripple": max(rail.v_max - rail.v_min for rail in rails)}

    nominal = {key: value.value for key, value in inputs.items()}
    at_nominal = at(nominal)
    changes = {"own": combined(contributions(at, inputs)["low"])}
    mains = situation.mains_rms(single)
    if mains and single.supply.follows_mains:
        high = situation.model_copy(update={"mains_v_rms": mains * (1.0 + OF_THE_MAINS)})
        changes["mains"] = at(nominal, high)["low"] - at_nominal["low"]
    return OwnRails(
        at_nominal["low"],
        at_nominal["high"],
        sum(change**2 for change in changes.values()) ** 0.5,
        at_nominal["ripple"],
    )


def own_rails_or_none(build: Build, board: bool) -> OwnRails | None:
    """The same; None where the supply cannot hold them up."""
    try:
        return own_rails(build, board)
    except PhysicsError:
        return None
