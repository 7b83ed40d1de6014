"""The frequency response under way: its points and runs, the current one, and which comes next."""

import dataclasses
from collections.abc import Callable

import numpy as np

from plinth.bench import frequency_response as response
from plinth.bench.response_curves import ResponseCurves, response_curves
from plinth.builds.instruments import Role
from plinth.drawing.series import Series
from plinth.judge.state import State
from plinth.record.giving import TYPED, Giving
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.record.subject import Kind, read_subject
from plinth.session.current_channel import CurrentChannel
from plinth.session.procedure.taking import Said, Taken, given_by, sentence
from plinth.session.session import Session
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_quantity

AS_IT_IS = "As it is"
# Every other point is drawn relative to 1 kHz, so that comes first.
ORDER = (response.REFERENCE_HZ, *(f for f in response.FREQUENCIES_HZ if f != response.REFERENCE_HZ))


@dataclasses.dataclass(frozen=True)
class ResponseListener:
    """Who is told: that another point or run is current, and that a reading is on disk."""

    shown: Callable[[], None]
    written: Callable[[], None]


class ResponseProcedure:
    """Points over frequency, one of them current: ``f_hz`` of ``run`` (empty: the plain one)."""

    def __init__(self, session: Session, listener: ResponseListener) -> None:
        self._session, self._tell = session, listener
        self.channel = CurrentChannel(session)
        self.f_hz, self.run, self.blocked = ORDER[0], "", ""
        self.band = response.AUDIBLE_HZ
        # By build: what one was begun for is no point of another.
        self._asked: dict[int, set[float]] = {}
        self._named_runs: dict[tuple[int, str], list[str]] = {}

    # Points and runs

    @property
    def place(self) -> tuple[int, str]:
        """Current build and channel."""
        return self._session.stored.id, self.channel.name

    @property
    def frequencies(self) -> tuple[float, ...]:
        """All points of this channel, rising: the usual ones, those that were read, those just asked for."""
        read = [f_hz for f_hz, run in self._points_of(self.channel.name) if run == self.run]
        return tuple(sorted({*response.FREQUENCIES_HZ, *self._asked.get(self._session.stored.id, ()), *read}))

    def _points_of(self, channel: str) -> list[tuple[float, str]]:
        """Frequency and run of all points of a channel that were ever read."""
        subjects = [read_subject(text) for text in self._session.records.book]
        key = self._session.build.key_of(channel)
        return [response.read_what(about.what) for about in subjects
                if (about.kind, about.channel) == (Kind.RESPONSE, key)]  # fmt: skip

    @property
    def run_names(self) -> tuple[str, ...]:
        """The runs of this channel that have a name, in the order they came."""
        read = [run for _, run in self._points_of(self.channel.name) if run]
        return tuple(dict.fromkeys([*read, *self._named_runs.get(self.place, ())]))

    def look_up(self) -> None:
        """What is current is one that this channel of this build has."""
        if self.run not in ("", *self.run_names):
            self.run = ""
        if self.f_hz not in self.frequencies:
            self.f_hz = self._next()

    def show_channel(self, channel: str) -> None:
        """Go to a channel, at its first frequency without a reading."""
        self.channel.take(channel)
        self.f_hz = self._next()
        self._tell.shown()

    def show_run(self, run: str) -> None:
        """Go to a run; empty: the plain one."""
        self.run = run
        self.f_hz = self._next()
        self._tell.shown()

    def choose(self, place: int) -> None:
        """Go to the point of that place."""
        self.f_hz = self.frequencies[place]
        self._tell.shown()

    def add_run(self, typed: str) -> None:
        """Begin a run of one's own under a name. Raises QuantityError."""
        name = response.run_name(typed)
        self._named_runs.setdefault(self.place, []).append(name)
        self.show_run(name)

    def take_band(self, typed: str) -> None:
        """Tell flatness in a band. Raises QuantityError."""
        self.band = response.read_band(typed)
        self._tell.shown()

    def add_frequency(self, typed: str) -> None:
        """Add a point of one's own and go to it. Raises QuantityError."""
        f_hz = read_quantity(typed, "Hz")
        if not response.LEAST_HZ <= f_hz <= response.MOST_HZ:
            raise QuantityError(
                f"found {shown(f_hz, 'Hz')}, expected {shown(response.LEAST_HZ, 'Hz', 2)} to "
                f"{shown(response.MOST_HZ, 'Hz', 2)}"
            )
        self._asked.setdefault(self._session.stored.id, set()).add(f_hz)
        self.f_hz = f_hz
        self._tell.shown()

    def _next(self) -> float:
        have = self.volts()
        order = (*ORDER, *(f for f in self.frequencies if f not in ORDER))
        return next((f for f in order if f not in have), ORDER[0])

    @property
    def request(self) -> Request | None:
        """The current point."""
        reference = self.volts().get(response.REFERENCE_HZ)
        return response.request_for_point(
            self._session.build, self.channel.name, self.f_hz, reference, self.run
        )  # fmt: skip

    @property
    def subject(self) -> str:
        """The current point, as records have it."""
        return response.subject(self._session.build, self.channel.name, self.f_hz, self.run)

    def counts(self) -> tuple[int, int]:
        """(points kept, points)."""
        return len(self.volts()), len(self.frequencies)

    # What was read

    def volts(self) -> dict[float, float]:
        """Kept points of this channel in the current run: volts RMS by frequency."""
        return {f: reading.value for f, reading in self._readings_of(self.channel.name, self.run).items()}

    def _readings_of(self, channel: str, run: str) -> dict[float, Reading]:
        """The points of a run that count today; a bound is none."""
        readings = {}
        for f, of_run in self._points_of(channel):
            reading = self._reading(channel, f, run) if of_run == run else None
            if reading is not None and not reading.bound.one_sided:
                readings[f] = reading
        return readings

    def _reading(self, channel: str, f_hz: float, run: str) -> Reading | None:
        build = self._session.build
        return self._session.records.reading(response.subject(build, channel, f_hz, run), response.conditions_of(build))

    def measured(self) -> response.MeasuredResponse:
        """What the points of the current run say."""
        readings = self._readings_of(self.channel.name, self.run)
        return response.evaluate(
            {f: reading.value for f, reading in readings.items()}, self.band,
            self._session.kit.of(Role.METER).bandwidth_hz,
            {f: response.u_of(reading) for f, reading in readings.items()},
        )  # fmt: skip

    def curves(self) -> ResponseCurves:
        """What was read over what is predicted."""
        return response_curves(self._session.build, self.measured(), self._other_runs())

    def _other_runs(self) -> list[Series]:
        """What was read besides: other runs of this channel, and the plain run of the others."""
        here = self.channel.name
        others = [(here, run) for run in ("", *self.run_names) if run != self.run]
        others += [(name, "") for name in self._session.build.channels if name != here]
        series = []
        for channel, run in others:
            readings = self._readings_of(channel, run)
            points = response.evaluate({f: reading.value for f, reading in readings.items()}).points
            if points:
                words = run or (AS_IT_IS.lower() if channel == here else channel)
                f_hz, db = np.array([point.f_hz for point in points]), np.array([point.db for point in points])
                series.append(Series(words, f_hz, db, role="ink2", unit="dB", label=words, label_at="start"))
        return series

    # A point

    def _read(self, text: str) -> Reading:
        return response.reading_for_point(
            self._session.build,
            self.channel.name,
            self.f_hz,
            typed=text,
            v_reference_rms=self.volts().get(response.REFERENCE_HZ),
            kit=self._session.kit,
            at=self._session.now(),
            run=self.run,
        )

    def said(self, text: str) -> Said:
        """What a level means at the current frequency; of no text what was kept there."""
        if not text.strip():
            kept = self._reading(self.channel.name, self.f_hz, self.run)
            if kept is None:
                return Said(State.UNKNOWN, "Volts as the meter says; a bare number is rms.")
            return Said(kept.state, f"Kept: {response.sentence_of(kept)}")
        try:
            reading = self._read(text.strip())
        except QuantityError as error:
            return Said(State.UNKNOWN, sentence(error))
        return Said(reading.state, f"{shown(reading.value, 'V')} rms. {response.sentence_of(reading)}")

    def take(self, text: str, giving: Giving = TYPED) -> Taken:
        """Keep the point and go to the next frequency."""
        if self.blocked:
            return Taken.HELD
        try:
            reading = self._read(text)
        except QuantityError:
            return Taken.NOT_UNDERSTOOD if text.strip() else Taken.NOTHING
        if not self._session.records.keep(given_by(reading, giving)):
            return Taken.NOT_KEPT
        self._tell.written()
        self.f_hz = self._next()
        self._tell.shown()
        return Taken.KEPT

    def answer(self, _text: str, _choice: int, _giving: Giving = TYPED) -> Taken:
        """Nothing is asked of a point: a level without a form is rms."""
        return Taken.NOT_UNDERSTOOD
