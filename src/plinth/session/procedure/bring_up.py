"""First power of a channel under way: the current step, what a reading means there, and which step comes next."""

import dataclasses
from collections.abc import Callable

from plinth.guide.interlock import Allowed, allowed, watching
from plinth.guide.judging import doubt, hint_for, reading_for_step, understood_words, verdict_at
from plinth.guide.progress import Stand, StepStand, due
from plinth.guide.step import Step
from plinth.guide.watching import noted
from plinth.judge.state import State
from plinth.record.giving import TYPED, Giving
from plinth.record.reading import Confirmation, Override, Reading
from plinth.record.request import Request
from plinth.session.current_channel import CurrentChannel
from plinth.session.power_port import Feed
from plinth.session.procedure.taking import Said, Taken, given_by, sentence
from plinth.session.session import Session
from plinth.units.bounds import Bound
from plinth.units.errors import AmbiguousError, QuantityError

LEFT_OUT = "left out: no instrument for it"
REASON_WANTED = "A reason in words is needed: found none. It is written into the diary."
WORDS_WANTED = "A few words are needed: found none. They are written into the diary."
LEAST_LETTERS = 3
# After so many of its time constants a reading that still stands outside is no transient any more.
LATE = 6.0


@dataclasses.dataclass(frozen=True)
class StepSaid(Said):
    """What is said at a step; ``reading`` what the text is taken as, ``lead`` what stands before each choice."""

    reading: Reading | None = None
    lead: str = ""


@dataclasses.dataclass(frozen=True)
class BringUpListener:
    """Who is told: that the current step stands otherwise, that another came up, and what is on disk.

    ``written``: the reading, ``explained``: the reason, or what was repaired.
    """

    shown: Callable[[], None]
    came_up: Callable[[], None]
    written: Callable[[], None]
    explained: Callable[[], None]


class BringUpProcedure:
    """The steps of a school for one channel, one of them current. ``words`` what came of the last text, if anything.

    ``watch_left_s``: so long is still to be watched before the reading of the step is worth taking.
    """

    def __init__(self, session: Session, listener: BringUpListener) -> None:
        self._session, self._tell = session, listener
        self.channel = CurrentChannel(session)
        self.stands: tuple[StepStand, ...] = ()
        self.row = 0
        self.watch_left_s = 0.0
        self.words = ""
        self._came_up_at = ""
        # A text that was asked about once, and where: given again, it is kept as it is.
        self._asked_about = ("", "")

    # Steps

    def look_up(self) -> None:
        """Take anew how the steps stand; where another comes up, the time that it is still to be watched begins."""
        self.stands = self._session.bring_up.stands(self.channel.name)
        self.row = max(0, min(self.row, len(self.stands) - 1))
        place = f"{self._session.stored.id}/{self.step.subject}" if self.step is not None else ""
        if self.stand is not None and place != self._came_up_at:
            self._came_up_at, self.words = place, ""
            self.watch_left_s = self._session.power.watch_left_s(self.stand)

    def to_due(self) -> None:
        """Go to the step that is due; the last one where none is."""
        self.stands = self._session.bring_up.stands(self.channel.name)
        next_due = due(self.stands)
        self.row = self.stands.index(next_due) if next_due else max(0, len(self.stands) - 1)
        self.look_up()
        self._tell.came_up()

    def choose(self, row: int) -> None:
        """Go to a step."""
        self.row = row
        self.look_up()
        self._tell.shown()

    def _go_on(self) -> None:
        """What was kept outside its window holds its step; else the next that is due comes up."""
        self.stands = self._session.bring_up.stands(self.channel.name)
        # What was kept can leave no step at all: another current channel, a supply that no school brings up.
        if self.row < len(self.stands) and self.stands[self.row].stand is Stand.OUTSIDE:
            self.look_up()
            self._tell.shown()
        else:
            self.to_due()

    @property
    def stand(self) -> StepStand | None:
        """The current step and how it stands; None where there are no steps."""
        return self.stands[self.row] if self.stands else None

    @property
    def step(self) -> Step | None:
        """The current step."""
        return None if self.stand is None else self.stand.step

    @property
    def subject(self) -> str:
        """The current step, as records have it."""
        return "" if self.step is None else self.step.subject

    @property
    def allowed(self) -> Allowed | None:
        """What may be done at the current step while power stands as it does."""
        session = self._session
        return None if self.stand is None else allowed(
            self.stand, session.power.live, session.stored.id, session.power.words
        )  # fmt: skip

    @property
    def blocked(self) -> str:
        """Why nothing is taken at the current step while things stand so; empty where it is."""
        may, stand = self.allowed, self.stand
        if stand is not None and stand.stand is Stand.HELD:
            return stand.why
        return "" if may is None or may.keep_now else may.why_not or "nothing is to be kept at this step now"

    @property
    def request(self) -> Request | None:
        """The reading that the current step asks for; None where it asks for a word."""
        return None if self.step is None else self.step.request

    def counts(self) -> tuple[int, int]:
        """(steps settled, steps)."""
        return sum(stand.settled for stand in self.stands), len(self.stands)

    @property
    def watched_out(self) -> bool:
        """Whether the step was to be watched, and that time has passed."""
        step, stand = self.step, self.stand
        return (
            step is not None and stand is not None and step.wait_s > 0.0 and self.watch_left_s == 0.0
            and watching(stand, self._session.power.live, self._session.stored.id)
        )  # fmt: skip

    def on_the_way(self) -> bool:
        """Whether a reading taken now is one on the way to where it rests."""
        step, may = self.step, self.allowed
        return (
            step is not None and may is not None and step.watch is not None and self.watch_left_s > 0.0
            and may.read_now and self._session.power.since_on_s(step.about.channel) is not None
        )  # fmt: skip

    def count_down(self, seconds: float) -> None:
        """So much time of watching has passed."""
        self.watch_left_s = max(0.0, self.watch_left_s - seconds)

    # Power

    def switch_on(self) -> bool:
        """Switch on what the step wants; False where that is refused, and ``trouble`` says why."""
        step, stand = self.step, self.stand
        if step is None or stand is None:
            return False
        if stand.stand is Stand.HELD:
            self._session.tell.trouble(f"Not switched on: this step {stand.why}.")
            return False
        if not self._session.power.switch_on(
            step.about.channel, f"Supply switched on: {step.title}.", self._feed(step)
        ):
            return False
        self.watch_left_s = step.wait_s
        return True

    def _feed(self, step: Step) -> Feed:
        """What an instrument would be set to: the supply that the step asks for, else the mains where there is one."""
        if step.supply_v is not None:
            return Feed(step.limit_a, step.supply_v)
        build, situation = self._session.build, self._session.situation
        if build.mains is None or step.limit_a is not None:
            return Feed(step.limit_a)
        return Feed(mains_v=situation.mains_rms(build) if step.mains_v is None else step.mains_v)

    def stop(self) -> None:
        """Off: whatever was under way, nothing is live afterwards."""
        self._session.power.switch_off()

    # A reading

    def _read(self, step: Step, text: str, *, on_the_way: bool) -> Reading:
        # A reading taken too soon has made healthy boards look faulty, and the other way round.
        since = self._session.power.since_on_s(step.about.channel) if step.power else None
        return reading_for_step(
            step, text, self._session.kit, self._session.now(), self.watch_left_s, since, on_the_way=on_the_way
        )  # fmt: skip

    def said(self, text: str) -> StepSaid:
        """What a text means at the current step; of no text what was kept there."""
        step, stand = self.step, self.stand
        if step is None or stand is None or step.window is None:
            return StepSaid(State.UNKNOWN, "")
        if not text.strip():
            record = stand.record
            if isinstance(record, Reading):
                said = self._said_of(step, record)
                return dataclasses.replace(said, words=f"Kept: {said.words[:1].lower()}{said.words[1:]}")
            reason = record.reason if isinstance(record, Override) else ""
            return StepSaid(State.UNKNOWN, "Passed over" if reason else "No reading yet", reason)
        try:
            reading = reading_for_step(
                step, text.strip(), self._session.kit, self._session.now(), on_the_way=self.on_the_way()
            )
        except AmbiguousError as error:
            asks = bool(error.texts)
            return StepSaid(
                State.UNKNOWN, error.asks if asks else "Not understood", sentence(error), error.texts,
                lead=error.lead if asks else "",
            )  # fmt: skip
        except QuantityError as error:
            return StepSaid(State.UNKNOWN, "Not understood", sentence(error))
        return self._said_of(step, reading)

    def _said_of(self, step: Step, reading: Reading) -> StepSaid:
        verdict = verdict_at(step, reading)
        further = f"{understood_words(reading)}. {verdict.further}".strip()
        return StepSaid(reading.state, verdict.words, further, reading=reading)

    def take(self, text: str, giving: Giving = TYPED) -> Taken:
        """Keep a reading, or that the step is done, and go on; what is more than there can be is asked about once."""
        stand, may, self.words = self.stand, self.allowed, ""
        if stand is None or may is None or not may.keep or not may.keep_now:
            return Taken.HELD
        step = stand.step
        if step.request is None:
            return self._kept_and_on(Confirmation(step.subject, self._session.now(), dict(step.conditions)))
        if not text.strip():
            if stand.settled:
                self._go_on()
                return Taken.NOTHING
            if step.optional:
                return self._kept_and_on(Override(step.subject, LEFT_OUT, self._session.now(), dict(step.conditions)))
        return self._take_reading(step, text.strip(), giving, on_the_way=False)

    def note(self, text: str, giving: Giving = TYPED) -> Taken:
        """Keep a reading on the way; the step stays."""
        step, may, self.words = self.step, self.allowed, ""
        if step is None or may is None or not may.read_now:
            return Taken.HELD
        return self._take_reading(step, text.strip(), giving, on_the_way=True) if text.strip() else Taken.NOTHING

    def answer(self, text: str, choice: int, giving: Giving = TYPED) -> Taken:
        """Keep a reading as the choice of that place says it."""
        choices = self.said(text).choices
        if choice >= len(choices):
            return Taken.NOT_UNDERSTOOD
        return self.note(choices[choice], giving) if self.on_the_way() else self.take(choices[choice], giving)

    def _take_reading(self, step: Step, text: str, giving: Giving, *, on_the_way: bool) -> Taken:
        try:
            reading = given_by(self._read(step, text, on_the_way=on_the_way), giving)
        except AmbiguousError as error:
            return Taken.ASKED if error.texts else Taken.NOT_UNDERSTOOD
        except QuantityError:
            return Taken.NOT_UNDERSTOOD
        question = doubt(step, reading)
        if question and self._asked_about != (step.subject, text):
            self._asked_about, self.words = (step.subject, text), question
            return Taken.ASKED
        if on_the_way:
            if not self._session.records.keep(noted(step, reading)):
                return Taken.NOT_KEPT
            self._tell.written()
            self.words = noted_words(step, reading)
            return Taken.KEPT
        return self._kept_and_on(reading)

    def _kept_and_on(self, record: Reading | Confirmation | Override) -> Taken:
        if not self._session.records.keep(record):
            return Taken.NOT_KEPT
        if not isinstance(record, Reading) or record.state is not State.OVER:
            self._tell.written()
        self._go_on()
        return Taken.KEPT

    # Without a reading

    def pass_over(self, reason: str) -> str:
        """Pass the step over with a reason; a sentence where that cannot be done."""
        step = self.step
        if step is None or len(reason.strip()) < LEAST_LETTERS:
            return REASON_WANTED
        if self._session.records.keep(
            Override(step.subject, reason.strip(), self._session.now(), dict(step.conditions))
        ):
            self._tell.explained()
            self._go_on()
        return ""

    def repaired(self, words: str) -> str:
        """Write what was repaired on this board; its cold steps come again. A sentence where that cannot be done."""
        step = self.step
        if step is None or len(words.strip()) < LEAST_LETTERS:
            return WORDS_WANTED
        if self._session.power.live is not None:
            return "Found the power still on, expected it off: press Stop (Esc) first."
        if self._session.records.repaired(step, words.strip()):
            self._tell.explained()
            self._tell.written()
            self._go_on()
        return ""

    def fitted_otherwise(self, reading: Reading | None) -> float | None:
        """The emitter resistor that was read, ohm, where the plan has another; None where that is not the question."""
        asked = self.step is not None and self.step.key == "emitter_resistor" and reading is not None
        return reading.value if (
            asked and reading is not None and reading.state is State.OVER and reading.bound is Bound.NONE
        ) else None  # fmt: skip

    def put_into_plan(self, r_ohm: float) -> None:
        """The resistor that was read is the one that is fitted: the plan says so from now on."""
        module = self._session.build.module
        if module.bias is not None and r_ohm > 0.0:
            bias = module.bias.model_copy(update={"r_fitted_ohm": r_ohm})
            self._session.plan.restate("module", module.model_copy(update={"bias": bias}))


def noted_words(step: Step, reading: Reading) -> str:
    """What is said of a reading on the way, as it is kept."""
    if reading.state is not State.OVER or step.window is None or step.watch is None:
        return "Noted, inside the window. Watch on."
    side = -1 if step.window.low is not None and reading.value < step.window.low else 1
    hint = hint_for(step, side, reading.value)
    late = (reading.number("since_on_s") or 0.0) > LATE * step.watch.tau_s
    if hint is not None and (late or not step.watch.transient):
        return f"Noted, and outside: {hint.check}"
    return (
        "Noted, outside so far. Watch on: what settles comes inside, a fault stays where it is. If it stands there "
        "when the time is over, or the board warms fast, press Stop."
    )
