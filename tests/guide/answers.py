"""What a healthy build, and one that is not, would answer at a step."""

from plinth.guide.step import Step
from plinth.physics.mains.lamp import glow


def inside(step: Step) -> str:
    """A reading in the middle of its window."""
    window = step.window
    assert window is not None
    high = window.high if window.usual_high is None else window.usual_high
    low = window.low if window.usual_low is None else window.usual_low
    if step.unit == "K":
        return glow(0.5 * ((low or 300.0) + (high or 300.0)))
    if high is None:
        return "OL" if step.unit == "ohm" else f"{2.0 * (window.low or 1.0):.6g} {step.unit}"
    middle = high / 2.0 if low is None else (low + high) / 2.0
    return f"{middle:.6g} {step.unit}"


def outside(step: Step) -> str:
    """A reading well outside its window."""
    window = step.window
    assert window is not None
    if step.unit == "K":
        return "bright"
    if window.high is None:
        return f"{0.1 * (window.low or 1.0):.6g} {step.unit}"
    return f"{3.0 * window.high + 1.0:.6g} {step.unit}"
