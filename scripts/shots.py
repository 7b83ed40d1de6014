"""Make the pictures in docs/screenshots/ from the demo workshop: `make shots`."""

import os
import pathlib
import sys
import tempfile
import time
from collections.abc import Callable

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import soundfile
from PySide6.QtWidgets import QApplication, QWidget

from plinth.demo.workshop import make_demo
from plinth.desk.find_dialog import FindDialog
from plinth.desk.guide_window import GuideWindow
from plinth.desk.look import load_fonts, look
from plinth.desk.measure.capture_dialog import CaptureDialog
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.shelf.listing_dialog import ListingDialog
from plinth.desk.window import PlinthWindow, held, hold
from plinth.desk.wiring.dialog import WiringDialog
from plinth.record.reading import Finding

FOLDER = pathlib.Path(sys.argv[1] if len(sys.argv) > 1 else pathlib.Path(__file__).parent.parent / "docs/screenshots")
ONLY = sys.argv[2:]


def settle(app: QApplication, seconds: float = 0.35) -> None:
    app.processEvents()
    for plot in (one for window in app.topLevelWidgets() for one in window.findChildren(Plot) if one.isVisible()):
        assert plot.graph is not None
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.01)


def shoot(widget: QWidget, name: str) -> None:
    if not ONLY or any(part in name for part in ONLY):
        FOLDER.mkdir(parents=True, exist_ok=True)
        widget.grab().save(str(FOLDER / f"{name}.png"), "PNG")
        print(FOLDER / f"{name}.png")


LISTING = """Quill 100 amplifier module, class AB
Supply voltage: ±20 ... ±45 V
Output power: 100W into 8 ohms, 200 W (4 ohm)
Gain: 24   Sensitivity: 1.9 V
THD 0.003% @ 1kHz 50W
Quiescent: 22 mV across 0.22 ohm, quiescent current 50 mA"""


def _choosing(app: QApplication, window: PlinthWindow, session: BenchSession) -> None:
    """What helps to choose: a listing read, a requirement met, the wiring; and the guide."""
    listing = ListingDialog(window, session)
    listing.text.insertPlainText(LISTING)
    find = FindDialog(window, session, ("supply.transformer", "module", "sink"), "60 W 4R, sink < 75 at 35, under 150")
    find.search()
    wiring = WiringDialog(window, session)
    guide = GuideWindow(window, "measure#rails")
    for dialog, name in ((listing, "listing"), (find, "find-me"), (wiring, "wiring"), (guide, "guide")):
        dialog.show()
        settle(app)
        shoot(dialog, name)
        dialog.reject()


def _first_power(app: QApplication, window: PlinthWindow, session: BenchSession, tail: str) -> None:
    """A bias that has drifted to its rest; the supply alone behind a lamp; a reading with what may be behind it."""
    page = window.power_up
    session.bring_up.choose_school("series_lamp" if tail == "dark" else "limited_supply")
    page.channels.choose("left" if tail == "light" else "right")
    if tail == "light":
        page.procedure.choose([one.step.key for one in page.procedure.stands].index("warm_bias"))
    elif tail == "dark":
        while page.question.step is not None and page.question.step.key != "lamp_alone_rail":
            page.question.keep()
    else:
        for typed in ("20M", "4k1", "38k", "12k", "0R33", "", "21"):
            page.question.field.setText(typed)
            page.question.keep()
        page.question.switch_on()
        page.question.field.setText("59")
        page.question.keep()
    settle(app)


def _further_tests(app: QApplication, window: PlinthWindow, tail: str) -> None:
    """Rails typed as far as they go; a heat run told on to its rest."""
    page = window.measure
    name = "Rails" if tail == "light" else "Heat run"
    page.show_named(name)
    test = page.sheet(name)
    for place in range(len(test.asked)):
        test.choose(place)
        if test.procedure.blocked:
            page.reason.setText("for a picture")
            page.pass_over()
    test.choose(0)
    rails = ("36.4", "36.2", "35.9", "35.7", "0.13pp", "0.12pp", "33.4", "33.3", "31.9", "31.8", "1.7pp", "1.65pp")
    run = ("22.5", "23.0", "32 at 4 min", "41 at 9 min", "49 at 15 min")
    for typed in rails if tail == "light" else run:
        test.field.setText(typed)
        test.keep()
    settle(app)
    if tail == "dark":
        shoot(window, "heat-run-dark")


def _decided(app: QApplication, window: PlinthWindow) -> None:
    """The listing, the build as it is, and a variant of it, side by side."""
    window.show_stage("decide")
    settle(app)
    shoot(window, "decide-light")
    window.show_stage("plan")


def _a_capture(app: QApplication, window: PlinthWindow, session: BenchSession, folder: pathlib.Path) -> None:
    """A made-up recording of the left output, held against the prediction and ready to be kept with its reading."""
    window.show_stage("measure")
    page = window.measure
    page.show_named("Gain, match")
    settle(app)
    test = page.sheet("Gain, match")
    test.choose(next(k for k, asked in enumerate(test.asked) if asked.key == "out_left"))
    rate = 96_000
    turns = 2.0 * np.pi * 1000.0 * np.arange(2 * rate) / rate
    wave = 0.055 * np.sin(turns) + 3e-6 * np.sin(2.0 * turns + 1.0) + 7e-6 * np.sin(3.0 * turns + 2.0)
    wave += 6e-7 * np.sin(0.1 * turns) + 2e-7 * np.random.default_rng(4).standard_normal(len(turns))
    soundfile.write(folder / "left-gain.wav", wave, rate, subtype="PCM_24")
    dialog = CaptureDialog(window, session, test.under_way, page.channels.channel)
    dialog.fields["volts"].setText("50")
    dialog.show()
    dialog.show_file(folder / "left-gain.wav")
    app.processEvents()
    settle(app)
    shoot(dialog, "capture")
    dialog.reject()


def _until(app: QApplication, holds: Callable[[], bool], seconds: float = 120.0) -> None:
    end = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < end, "it took too long"
        app.processEvents()
        time.sleep(0.01)


def _on_instruments(app: QApplication, folder: pathlib.Path) -> None:
    """First power on the simulated bench up to a live figure; then rails read by instruments, and the live page."""
    first = PlinthWindow(BenchSession(make_demo(folder)))
    hold(first)
    first.show()
    first.instrument_actions.try_simulated()
    window = held()
    assert window is not None
    session, bar, steps = window.session, window.instruments, window.power_up.procedure
    _until(app, lambda: session.instruments.connected)
    window.trouble_away.click()

    def look_at_all() -> None:
        sound = [
            Finding(one.check.subject, "sound", "", session.now(), dict(one.check.conditions))
            for one in session.bring_up.inspection()
        ]
        session.records.keep_all(sound)

    def read_on() -> None:
        look_at_all()
        bar.read_on()
        _until(app, lambda: not bar.run.going)
        if steps.request is None and steps.step is not None:
            steps.take("done")

    read_on()
    while steps.step is not None and steps.step.key != "full_dc":
        if steps.request is None:
            steps.take("done")
            continue
        bar.read()
        _until(app, lambda: not bar.run.going)
    if session.power.live is None:
        steps.switch_on()
    look.set(dark=True)
    window.toggle_bench_view()
    window.showNormal()
    window.resize(1280, 800)
    _until(app, lambda: bool(window.bench_view.figure.text()))
    settle(app)
    shoot(window, "bench-view-dark")
    window.toggle_bench_view()
    look.set(dark=False)
    window.resize(1280, 800)
    for _ in range(12):
        read_on()
    window.show_stage("measure")
    window.measure.show_named("Rails")
    settle(app, 1.5)
    window.instrument_actions.show_live()
    live = window.instrument_actions.live
    settle(app, 1.0)
    bar.read_on()
    settle(app, 1.2)
    shoot(live, "live-light")
    _until(app, lambda: not bar.run.going)
    live.close()
    session.power.put_away()
    settle(app, 1.0)
    shoot(window, "instruments-light")
    window.close_anyway = True
    window.close()


def main() -> None:
    app = QApplication([])
    load_fonts()
    with tempfile.TemporaryDirectory() as folder:
        _on_instruments(app, pathlib.Path(folder))
    with tempfile.TemporaryDirectory() as folder:
        session = BenchSession(make_demo(pathlib.Path(folder)), threaded=False)
        window = PlinthWindow(session)
        window.show()
        for dark, scale, tail in ((False, 1.0, "light"), (True, 1.0, "dark"), (False, 1.5, "large")):
            look.set(dark=dark, scale=scale)
            window.resize(1280, 800)
            window.show_stage("plan")
            session.choose_station("module" if dark else "transformer")
            settle(app)
            if tail != "large":
                shoot(window, f"plan-{tail}")
            window.plan.show_shelf()
            settle(app)
            shelf = window.plan.shelf
            shelf.search.setText(">=120VA 2x22..30" if not dark else "30V <40")
            shelf.to_rows()
            shelf.look_at_row(2)
            shelf.try_current()
            settle(app)
            if tail == "light":
                shoot(window, f"shelf-{tail}")
            shelf.leave()
            if tail == "light":
                window.show_stage("inspect")
                window.inspect.choose([one.check.key for one in window.inspect.inspected].index("polarity"))
                settle(app)
                shoot(window, "inspect-light")
            window.show_stage("power_up")
            _first_power(app, window, session, tail)
            settle(app)
            shoot(window, f"power-up-{tail}")
            window.show_stage("measure")
            window.measure.show_named("Clipping power")
            window.measure.clip.field.setText("43.1pp" if dark else "")
            settle(app)
            if tail == "light":
                shoot(window, f"measure-{tail}")
            if tail != "large":
                _further_tests(app, window, tail)
            window.show_stage("diary")
            settle(app)
            if tail == "light":
                shoot(window, f"diary-{tail}")
        look.set(dark=False, scale=1.0)
        window.show_stage("plan")
        _choosing(app, window, session)
        _decided(app, window)
        _a_capture(app, window, session, pathlib.Path(folder))
        window.close()


main()
