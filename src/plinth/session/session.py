"""One open workshop: plan, shelf, records, power and predictions together."""

from plinth.record.clock import Clock, now
from plinth.session.dummy_loads import DummyLoads
from plinth.session.listeners import Telling
from plinth.session.photos import Photos
from plinth.session.reminders import Reminders
from plinth.session.runner import Runner
from plinth.session.variants import Variants
from plinth.workshop.store import Workshop


class Session(Variants, Reminders, Photos, DummyLoads):
    """The only writer to the workshop. Whoever shows it is told of changes through ``tell``."""

    def __init__(self, workshop: Workshop, jobs: Runner, tell: Telling | None = None, clock: Clock = now) -> None:
        self.now = clock
        super().__init__(workshop, jobs, tell or Telling())
        self._load()

    def switch(self, build_id: int) -> None:
        """Take another build in hand; what falls due of this one is remembered."""
        self.remember()
        super().switch(build_id)

    def close(self) -> None:
        """Make safe what an instrument has switched on, stop computing and close the workshop."""
        self.port.make_safe()
        self.jobs.end()
        self._save_again()
        self.workshop.close()
