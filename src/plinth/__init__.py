"""Plinth: plan, bring up, measure and record home-built solid-state audio amplifiers.

For scripts and notebooks, three lines are enough::

    import plinth
    build = plinth.read_build("examples/stage-pair.json")
    print(plinth.solve(build, plinth.Situation(load_ohm=8.0))["clip_power_w"])

A capture becomes figures in one::

    plinth.analyse("left.wav", volts_per_full_scale=(50.0,)).channels[0]["thd_db"]

What the commands do with a workshop, ``docs/COMMANDS.md`` shows in Python as well.

Names are loaded when first used, so that importing Plinth costs nothing.
"""

import importlib
from typing import TYPE_CHECKING

from plinth.release import VERSION

if TYPE_CHECKING:
    from plinth.builds.build import Build
    from plinth.builds.files import BuildFileError, read_build
    from plinth.builds.situation import Situation
    from plinth.captures.analysis import analyse
    from plinth.captures.capture import CaptureError
    from plinth.captures.figure import Analysis
    from plinth.judge.margin import Margin
    from plinth.judge.rules import judge as margins
    from plinth.judge.state import State
    from plinth.physics.numbers.errors import PhysicsError
    from plinth.predict.figure import Figure
    from plinth.predict.prediction import Prediction
    from plinth.predict.solve import solve
    from plinth.session.outside import (
        OutsideError,
        comparison,
        contents,
        exported,
        imported,
        report_document,
        report_html,
        search,
    )  # fmt: skip

__version__ = VERSION

__all__ = [
    "Analysis",
    "Build",
    "BuildFileError",
    "CaptureError",
    "Figure",
    "Margin",
    "OutsideError",
    "PhysicsError",
    "Prediction",
    "Situation",
    "State",
    "__version__",
    "analyse",
    "comparison",
    "contents",
    "exported",
    "imported",
    "margins",
    "read_build",
    "report_document",
    "report_html",
    "search",
    "solve",
]

# "judge" is a room of the house, so what it does for a prediction is called by what it gives.
_HOMES = {
    "Analysis": "captures.figure",
    "Build": "builds.build",
    "BuildFileError": "builds.files",
    "CaptureError": "captures.capture",
    "Figure": "predict.figure",
    "Margin": "judge.margin",
    "OutsideError": "session.outside",
    "PhysicsError": "physics.numbers.errors",
    "Prediction": "predict.prediction",
    "Situation": "builds.situation",
    "State": "judge.state",
    "analyse": "captures.analysis",
    "comparison": "session.outside",
    "contents": "session.outside",
    "exported": "session.outside",
    "imported": "session.outside",
    "margins": "judge.rules",
    "read_build": "builds.files",
    "report_document": "session.outside",
    "report_html": "session.outside",
    "search": "session.outside",
    "solve": "predict.solve",
}


def __getattr__(name: str) -> object:
    if name not in _HOMES:
        raise AttributeError(f"module 'plinth' has no attribute {name!r}")
    return getattr(importlib.import_module(f"plinth.{_HOMES[name]}"), {"margins": "judge"}.get(name, name))


def __dir__() -> list[str]:
    return sorted(__all__)
