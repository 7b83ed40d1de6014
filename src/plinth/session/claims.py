"""The claims of the build's parts, judged with what the build gives into each claimed load."""

from collections.abc import Callable

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.claim_verdict import JudgedClaim
from plinth.judge.claims import THD_OF
from plinth.judge.claims_judged import Into, judged_claims
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.distortion import power_figure_at
from plinth.predict.solve import solve


def claims_of(build: Build, situation: Situation, go_on: Callable[[float], bool]) -> tuple[JudgedClaim, ...]:
    """All claims judged. Raises PhysicsError where the build itself cannot run."""
    prediction = solve(build, situation.model_copy(update={"lamp_w": None}))
    into: dict[float, Into] = {}
    claims = build.module.claims
    for k, claim in enumerate(claims):
        try:
            there = solve(build, Situation(load_ohm=claim.r_load_ohm, channels_driven="one"))
        except PhysicsError:
            continue
        share = THD_OF.get(claim.definition)
        into[claim.r_load_ohm] = Into(
            there["clip_worst_power_w"], there["clip_v_peak"], there["rail_no_load_v"].value,
            None if share is None else power_figure_at(there, share),
        )  # fmt: skip
        if not go_on((k + 1) / len(claims)):
            raise PhysicsError("it was stopped")
    return judged_claims(build, prediction, into)
