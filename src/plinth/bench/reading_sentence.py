"""What is said of a reading that a sheet asked for, from what was kept of it."""

from plinth.captures.words import label_of
from plinth.judge.window import Window, judge_reading
from plinth.record.conditions import conditions_words
from plinth.record.reading import Reading


def sentence_of(reading: Reading) -> str:
    """What was said of a reading when it was taken, from what was kept of it."""
    said = []
    slip = reading.word("slip")
    if slip:
        said.append(f"Typed as {reading.typed}, taken on asking: {slip}.")
    since = reading.number("since_s")
    if since is not None:
        said.append(f"{since / 60.0:.0f} min after the start.")
    if reading.low is None and reading.high is None:
        why = reading.word("why_open")
        return " ".join([*said, f"{why[0].upper()}{why[1:]}." if why else ""]).strip()
    window = Window(reading.low, reading.high, reading.unit, "")
    verdict = judge_reading(reading.value, reading.u, window, reading.bound)
    return " ".join([*said, f"{verdict.words}: expected {window.words()}."])


def taken_words(reading: Reading) -> str:
    """With what, when, and under which conditions a reading was taken."""
    at = f"{reading.taken_at:%Y-%m-%d %H:%M}"
    under = conditions_words(reading.conditions)
    drawn = drawn_words(reading)
    by = drawn or f"Read with {reading.instrument or 'an instrument not named'}"
    return f"{by}, {at}{f', {under}' if under else ''}."


def drawn_words(reading: Reading) -> str:
    """Which figure of which part of which capture it was drawn from; empty where it was not."""
    capture, figure = reading.word("capture"), reading.word("capture_figure")
    start, stop = reading.number("capture_from_s"), reading.number("capture_to_s")
    if not capture:
        return ""
    part = "" if start is None or not stop else f", {start:.6g} to {stop:.6g} s"
    return f"Drawn from {capture}: {label_of(figure)} of {reading.word('capture_channel')}{part}"
