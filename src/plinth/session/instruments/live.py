"""What instruments read now, again and again: values with their expected bands, and an alarm where one leaves its."""

import collections
import dataclasses
import threading
import time
from collections.abc import Callable, Mapping

from plinth.builds.build import Build
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action, InstrumentKind
from plinth.predict.figure import Figure
from plinth.record.probe import Point
from plinth.session.instruments.connected import Bench, Connected
from plinth.units.shown import shown

EVERY_S = 0.1
KEPT_S = 300.0
# So many looks in a row outside are an alarm: one alone is a spark, or somebody who touched a lead.
ALARM_LOOKS = 3
# Seconds after switching on in which a rail may still be on its way.
FILLS_S = 2.0
# A look that fails for what passes by itself (a machine that was busy, an answer that came late) is followed by
# another; so many in a row are the end.
LOOKS_LOST = 5
_PASSES = frozenset({ErrorKind.STALE, ErrorKind.TIME_OUT})


@dataclasses.dataclass(frozen=True)
class LiveValue:
    """One value that is read live, in ``unit``. ``low`` and ``high`` its expected band (None: open there).

    ``follows_mains``: that band is for the mains of the plan, and goes with them.
    """

    title: str
    unit: str
    reader: Connected
    action: Action
    low: float | None = None
    high: float | None = None
    follows_mains: bool = False

    def inside(self, value: float, mains_share: float = 1.0) -> bool:
        """Whether a value lies in its band, by a last digit, on ``mains_share`` of the plan's mains."""
        share = mains_share if self.follows_mains else 1.0
        slack = 1e-9 * max(abs(value), 1.0)
        return (self.low is None or value >= share * self.low - slack) and (
            self.high is None or value <= share * self.high + slack
        )

    @property
    def band_words(self) -> str:
        """Its band, in words; empty where it has none."""
        if self.low is not None and self.high is not None:
            if self.low == -self.high:
                return f"±{shown(self.high, self.unit, 2)}"
            return f"{shown(self.low, self.unit, 3)} to {shown(self.high, self.unit, 3)}"
        if self.high is not None:
            return f"up to {shown(self.high, self.unit, 3)}"
        return "" if self.low is None else f"from {shown(self.low, self.unit, 3)}"


# Where, by whom, what; and in which unit.
_READ: tuple[tuple[str, Point, InstrumentKind, Action, str], ...] = (
    ("+ rail", Point.RAIL_PLUS, InstrumentKind.MULTIMETER, Action.READ_VOLTS_DC, "V"),
    ("Output, DC", Point.OUTPUT, InstrumentKind.MULTIMETER, Action.READ_VOLTS_DC, "V"),
    ("Output, AC", Point.OUTPUT, InstrumentKind.MULTIMETER, Action.READ_VOLTS_AC, "V rms"),
    ("Bias", Point.BIAS, InstrumentKind.MULTIMETER, Action.READ_VOLTS_DC, "V"),
    ("Bench supply", Point.SUPPLY, InstrumentKind.DC_SUPPLY, Action.READ_AMPERES, "A"),
    ("From the wall", Point.WALL, InstrumentKind.POWER_METER, Action.READ_WATTS, "W"),
    ("Sink", Point.SINK, InstrumentKind.THERMOMETER, Action.READ_DEGREES, "°C"),
)


def live_values(
    bench: Bench, build: Build, figures: Mapping[str, Figure], channel: str, supply_limit_a: float | None = None
) -> tuple[LiveValue, ...]:
    """What of a bench can be read live, each with the band in which a healthy build holds it, from idle to clipping.

    ``figures`` the prediction's; where one is not there the band is open. ``supply_limit_a`` what a bench supply's
    limit is, where it feeds the build.
    """
    bands = _bands(build, figures, supply_limit_a)
    values = []
    for title, point, kind, action, unit in _READ:
        meter = bench.at(kind, point, channel)
        if meter is not None and meter.can(action):
            low, high = bands.get(title, (None, None))
            follows = point is Point.RAIL_PLUS and build.supply.follows_mains
            values.append(
                LiveValue(
                    title=title, unit=unit, reader=meter, action=action, low=low, high=high, follows_mains=follows
                )
            )  # fmt: skip
    return tuple(values)


def _bands(
    build: Build, figures: Mapping[str, Figure], supply_limit_a: float | None
) -> dict[str, tuple[float | None, float | None]]:
    def most(name: str) -> float | None:
        figure = figures.get(name)
        return None if figure is None else figure.value + figure.spread

    def least(name: str) -> float | None:
        figure = figures.get(name)
        return None if figure is None else figure.value - figure.spread

    offset = build.module.offset_max_v
    return {
        # At full signal it sags no further, without any load it rises no higher.
        "+ rail": (least("rail_plus_min_v"), most("rail_no_load_high_v") or most("rail_no_load_v")),
        "Output, DC": (-offset, offset),
        "Sink": (None, build.sink.t_limit_c),
        "From the wall": (None, most("mains_power_w")),
        "Bench supply": (None, supply_limit_a),
    }


Sample = tuple[float, float]


class LiveReader:
    """Reads ``values`` in turn on a thread of its own. ``samples`` by title: (seconds, value), the last minutes.

    ``alarmed`` is told, on that thread, of a value that stays outside its band while ``armed``, once rails have had
    their time to fill. ``mains_share`` what the mains is set to, as a share of the plan's. ``lost`` why
    the last look failed, empty once one succeeds; ``fault`` why it ended.
    """

    def __init__(
        self, read: Callable[[Connected, Action], float], values: tuple[LiveValue, ...],
        alarmed: Callable[[LiveValue, float], None] = lambda _value, _reading: None, every_s: float = EVERY_S,
        *, armed: Callable[[], bool] = lambda: True, mains_share: Callable[[], float] = lambda: 1.0,
        fills_s: float = FILLS_S,
    ) -> None:  # fmt: skip
        self._read, self.values, self._alarmed, self._every_s = read, values, alarmed, every_s
        self._armed, self._mains_share, self._fills_s = armed, mains_share, fills_s
        self._armed_at = 0.0
        self.samples: dict[str, collections.deque[Sample]] = {value.title: collections.deque() for value in values}
        self.alarms: dict[str, float] = {}
        self.lost = self.fault = ""
        self._lost_in_a_row = 0
        self._outside = dict.fromkeys(self.samples, 0)
        self._begun = time.monotonic()
        self._ended = threading.Event()
        self._lock = threading.Lock()
        self._thread = threading.Thread(target=self._run, name="live", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End; it reads nothing more."""
        self._ended.set()
        if self._thread is not threading.current_thread():
            self._thread.join(5.0)

    @property
    def armed(self) -> bool:
        """Whether bands hold just now."""
        return self._armed()

    def course(self, title: str) -> tuple[Sample, ...]:
        """What was read of a value so far, of the last minutes."""
        with self._lock:
            return tuple(self.samples[title])

    def last(self, title: str) -> float | None:
        """The last of it; None before there is one."""
        with self._lock:
            held = self.samples[title]
            return held[-1][1] if held else None

    def _run(self) -> None:
        while not self._ended.is_set():
            began = time.monotonic()
            try:
                for value in self.values:
                    if self._ended.is_set():
                        return
                    self._take(value, self._read(value.reader, value.action))
                self.lost, self._lost_in_a_row = "", 0
            except InstrumentError as error:
                self.lost = str(error)
                self._lost_in_a_row += 1
                if error.kind not in _PASSES or self._lost_in_a_row == LOOKS_LOST:
                    self.fault = self.lost
                    return
            self._ended.wait(max(0.0, self._every_s - (time.monotonic() - began)))

    def _take(self, value: LiveValue, reading: float) -> None:
        now = time.monotonic() - self._begun
        with self._lock:
            held = self.samples[value.title]
            held.append((now, reading))
            while held[0][0] < now - KEPT_S:
                held.popleft()
        armed = self._armed()
        if not armed:
            self._armed_at = now
        settled = armed and now - self._armed_at >= self._fills_s
        outside = settled and not value.inside(reading, self._mains_share())
        self._outside[value.title] = self._outside[value.title] + 1 if outside else 0
        if self._outside[value.title] == ALARM_LOOKS:
            self.alarms[value.title] = reading
            self._alarmed(value, reading)
