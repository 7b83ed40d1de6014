"""The session as the window has it: its announcements as signals, its slow work on a thread of its own."""

from PySide6.QtCore import QObject, Signal

from plinth.desk.jobs import Jobs
from plinth.record.clock import Clock, now
from plinth.session.listeners import Telling
from plinth.session.opening import Workshop
from plinth.session.session import Session


class BenchSession(Session, QObject):
    """Widgets ask the session to do things and listen to its signals; none of them writes to the workshop itself."""

    build_switched = Signal()
    plan_changed = Signal()
    predicted = Signal()
    loads_predicted = Signal()
    records_changed = Signal()
    kept = Signal(object)
    trouble = Signal(str)
    refused = Signal(str)
    station_chosen = Signal(str)
    subject_wanted = Signal(str)
    test_wanted = Signal(str)
    photos_changed = Signal()
    captures_changed = Signal()
    power_changed = Signal()
    fault = Signal(str, object)
    instruments_changed = Signal()
    # From whichever thread heard of it.
    went_off = Signal(str)

    jobs: Jobs

    def __init__(self, workshop: Workshop, *, threaded: bool = True, clock: Clock = now) -> None:
        QObject.__init__(self)
        jobs = Jobs(self, threaded=threaded)
        jobs.failed.connect(lambda name, error: self.predictions.job_failed(name, error))
        Session.__init__(
            self,
            workshop,
            jobs,
            Telling(
                build_switched=self.build_switched.emit, plan_changed=self.plan_changed.emit,
                predicted=self.predicted.emit, loads_predicted=self.loads_predicted.emit,
                records_changed=self.records_changed.emit, kept=self.kept.emit, trouble=self.trouble.emit,
                refused=self.refused.emit, station_chosen=self.station_chosen.emit,
                photos_changed=self.photos_changed.emit,
                captures_changed=self.captures_changed.emit, power_changed=self.power_changed.emit,
                fault=self.fault.emit,
            ),
            clock,
        )  # fmt: skip
        self.instruments.went_off = self.went_off.emit
        self.instruments.changed.append(self.instruments_changed.emit)
