"""The situation a build is looked at in: what the sliders and ``--situation`` set."""

from typing import Annotated, Literal

from pydantic import Field

from plinth.builds.build import Build
from plinth.builds.quantities import Celsius, LoadOhms, MainsHertz, Model, SignalHertz

MainsVolts = Annotated[float, Field(ge=20, le=500, description="V")]


class Situation(Model):
    """None means: as the build has it.

    ``level`` is the output as a fraction of clip onset (1 = just clean, 0 = idle); ``crest_db`` the crest
    factor of the programme by which heat is judged (3.01 sine, 9 compressed music, 12 pink noise, 15 speech);
    ``phase_deg`` of the signal at the mains zero crossing; ``third_harmonic`` of the mains as a fraction of its
    fundamental, which flattens the crest while the RMS is kept.
    """

    mains_v_rms: MainsVolts | None = None
    mains_hz: MainsHertz | None = None
    third_harmonic: Annotated[float, Field(ge=0, le=0.2)] = 0.0
    load_ohm: LoadOhms | None = None
    channels_driven: Literal["one", "all"] = "all"
    level: Annotated[float, Field(ge=0, le=1)] = 1.0
    frequency_hz: SignalHertz = 1000.0
    phase_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    crest_db: Annotated[float, Field(ge=3.01, le=30)] = 9.0
    ambient_c: Celsius = 25.0

    def mains_rms(self, build: Build) -> float:
        """Mains volts RMS in force."""
        return self.mains_v_rms if self.mains_v_rms is not None else build.mains.v_nominal_rms

    def frequency_of_mains(self, build: Build) -> float:
        """Mains frequency in force, Hz."""
        return self.mains_hz if self.mains_hz is not None else build.mains.frequency_hz

    def load(self, build: Build) -> float:
        """Load resistance of each driven channel, ohm."""
        return self.load_ohm if self.load_ohm is not None else build.load.r_ohm

    def driven(self, build: Build) -> int:
        """How many channels play."""
        return 1 if self.channels_driven == "one" else len(build.channels)
