"""What the physics refuses.

PhysicsError
├── RailCollapseError    the load takes more than the supply can give
├── RailRunOffError      the output pumps the rails up without end
└── NoSwingError         the rails leave nothing for the output

GivenUpError is none of these: nobody waits for the answer any more, or it took too long. What the physics says is then
not known.
"""


class PhysicsError(ValueError):
    """The figures given describe no circuit that could run; the message says why."""


class RailCollapseError(PhysicsError):
    """The load pulls a rail down to 0 V within a period."""


class RailRunOffError(PhysicsError):
    """A half bridge returns more energy to its rails than they can hold."""


class NoSwingError(PhysicsError):
    """The rail is below the module's own saturation voltage, so no output is possible."""


class GivenUpError(Exception):
    """The computation was ended before it had an answer; the message says why."""
