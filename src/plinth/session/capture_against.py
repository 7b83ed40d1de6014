"""The build that a capture is held against as things stand, and its pictures over the prediction and beside others."""

from collections.abc import Sequence

from plinth.bench import frequency_response as response
from plinth.captures.options import Options
from plinth.record.subject import Kind, read_subject
from plinth.session.capture_beside import with_beside
from plinth.session.capture_prediction import Against, Overlay, over_prediction
from plinth.session.capture_view import CaptureView
from plinth.session.procedure.taking import Procedure
from plinth.session.session import Session


def against_now(session: Session, procedure: Procedure | None, channel: str, options: Options) -> Against:
    """The current build, in the load that is stated or that the current test asks for, at its level."""
    request = None if procedure is None else procedure.request
    build, situation = session.build, session.situation
    load = options.load_ohm
    asked = None if request is None else request.setting("load")
    stated = load is not None or asked is not None
    load = load or (None if asked is None else asked.value) or situation.load_ohm
    level = None if request is None else request.setting("generator level")
    legs = 2.0 if build.wiring == "bridged" else 1.0
    v_out = 0.0 if level is None else level.value * build.module.gain * legs
    situation = situation.model_copy(update={"load_ohm": load, "load_phase_deg": None, "lamp_w": None})
    return Against(build, situation, v_out, stated, _points(session, channel))


def _points(session: Session, channel: str) -> tuple[tuple[float, float], ...]:
    """The kept points of the response of a channel, to its 1 kHz."""
    build = session.build
    readings = {}
    for subject in session.records.book if channel else ():
        about = read_subject(subject)
        if about.kind is not Kind.RESPONSE or about.channel != build.key_of(channel):
            continue
        f_hz, run = response.read_what(about.what)
        reading = session.records.reading(subject, response.conditions_of(build))
        if not run and reading is not None and not reading.bound.one_sided:
            readings[f_hz] = reading.value
    return tuple((point.f_hz, point.db) for point in response.evaluate(readings).points)


def laid_over(view: CaptureView, beside: Sequence[CaptureView], against: Against | None) -> Overlay:
    """The pictures of a capture over the prediction (where one is wanted), those of others in the pale line."""
    overlay = Overlay(view.pictures, "")
    if against is not None and view.capture is not None:
        overlay = over_prediction(view.capture, view.analysis.kind, view.pictures, against)
    others = tuple((other.name, other.pictures) for other in beside)
    return Overlay(with_beside(overlay.pictures, others), overlay.words) if others else overlay
