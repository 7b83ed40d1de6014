"""The situation a build is looked at in: what the sliders and ``--situation`` set."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from plinth.builds.build import Build
from plinth.builds.quantities import Celsius, Degrees, LoadOhms, MainsHertz, Model, SignalHertz, Volts
from plinth.physics.stages.loudspeaker import loudspeaker_impedance

MainsVolts = Annotated[float, Field(ge=20, le=500, description="V")]


class Situation(Model):
    """None means: as the build has it.

    ``level`` is the output as a fraction of clip onset (1 = just clean, 0 = idle); ``crest_db`` the crest
    factor of the programme by which heat is judged (3.01 sine, 9 compressed music, 12 pink noise, 15 speech);
    ``phase_deg`` of the signal at the mains zero crossing; ``third_harmonic`` of the mains as a fraction of its
    fundamental, which flattens the crest while the RMS is kept. ``load_ohm`` is |Z| and ``load_phase_deg`` its phase,
    above 0 inductive; ``battery_v`` the battery at rest; ``lamp_w`` an incandescent lamp of that rating in series with
    the mains, as warm as the build at rest keeps it; ``antiphase`` drives channels in pairs against each other.
    ``source_v_rms`` the most that the source gives (a phone 0.5 V, line 2 V; not said: not judged).
    ``rail_load_a`` (0: nothing) or ``rail_load_ohm`` hangs on each rail in place of the modules: the supply alone.
    """

    mains_v_rms: MainsVolts | None = None
    battery_v: Volts | None = None
    lamp_w: Annotated[float, Field(ge=5, le=500)] | None = None
    mains_hz: MainsHertz | None = None
    third_harmonic: Annotated[float, Field(ge=0, le=0.2)] = 0.0
    load_ohm: LoadOhms | None = None
    load_phase_deg: Degrees | None = None
    channels_driven: Literal["one", "all"] = "all"
    level: Annotated[float, Field(ge=0, le=1)] = 1.0
    frequency_hz: SignalHertz = 1000.0
    antiphase: bool = False
    source_v_rms: Annotated[float, Field(ge=0.01, le=50)] | None = None
    rail_load_a: Annotated[float, Field(ge=0, le=200)] | None = None
    rail_load_ohm: Annotated[float, Field(ge=0.1, le=100_000)] | None = None
    phase_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    crest_db: Annotated[float, Field(ge=3.01, le=30)] = 9.0
    ambient_c: Celsius = 25.0

    @model_validator(mode="after")
    def _one_rail_load(self) -> "Situation":
        if self.rail_load_a is not None and self.rail_load_ohm is not None:
            raise ValueError("found rail_load_a and rail_load_ohm, expected one of them: leave the other out")
        return self

    def mains_rms(self, build: Build) -> float:
        """Mains volts RMS in force; 0 where a build has no mains."""
        if build.mains is None:
            return 0.0
        return self.mains_v_rms if self.mains_v_rms is not None else build.mains.v_nominal_rms

    def frequency_of_mains(self, build: Build) -> float:
        """Mains frequency in force, Hz; 50 where a build has none (it then only sets how long a picture is)."""
        if self.mains_hz is not None:
            return self.mains_hz
        return 50.0 if build.mains is None else build.mains.frequency_hz

    def battery(self, build: Build) -> float:
        """Battery volts at rest in force; 0 where there is none."""
        battery = build.supply.battery
        if battery is None:
            return 0.0
        return self.battery_v if self.battery_v is not None else battery.v_nominal

    def impedance(self, build: Build) -> tuple[float, float]:
        """|Z| (ohm) and phase (degrees) of each driven channel's load at the signal's frequency.

        A stated ``load_ohm`` takes the place of the part in the load station.
        """
        z, phase = self.load(build), 0.0
        coil = build.load.voice_coil
        if self.load_ohm is None and coil is not None:
            z, phase = loudspeaker_impedance(
                self.frequency_hz, coil.r_dc_ohm, coil.f_resonance_hz, coil.q_mechanical, coil.q_electrical,
                coil.l_coil_h,
            )  # fmt: skip
        return z, phase if self.load_phase_deg is None else self.load_phase_deg

    def load(self, build: Build) -> float:
        """Load resistance of each driven channel (a loudspeaker's nominal one), ohm."""
        return self.load_ohm if self.load_ohm is not None else build.load.r_ohm

    def driven(self, build: Build) -> int:
        """How many channels play."""
        return 1 if self.channels_driven == "one" else len(build.channels)
