"""Number types of part fields: unit in the name, allowed range here, one place for all parts."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field


class Model(BaseModel):
    """A frozen record that takes no unknown field, no NaN and no infinity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, strict=False)


Name = Annotated[str, Field(min_length=1, max_length=120)]
MainsVolts = Annotated[float, Field(ge=40, le=430, description="V")]
Volts = Annotated[float, Field(ge=0.05, le=2000, description="V")]
TestVolts = Annotated[float, Field(ge=10, le=50_000, description="V")]
PrimaryVolts = Annotated[float, Field(ge=10, le=1000, description="V")]
SmallVolts = Annotated[float, Field(ge=0, le=50, description="V")]
Millivolts = Annotated[float, Field(ge=0, le=5000, description="mV")]
Amperes = Annotated[float, Field(ge=1e-6, le=500, description="A")]
IdleAmperes = Annotated[float, Field(ge=0, le=20, description="A")]
Ohms = Annotated[float, Field(ge=1e-6, le=10e6, description="ohm")]
SmallOhms = Annotated[float, Field(ge=0, le=100, description="ohm")]
LoadOhms = Annotated[float, Field(ge=0.5, le=10_000, description="ohm")]
Henries = Annotated[float, Field(ge=1e-9, le=10.0, description="H")]
SmallHenries = Annotated[float, Field(ge=0, le=0.1, description="H")]
Farads = Annotated[float, Field(ge=1e-6, le=2.0, description="F")]
SmallFarads = Annotated[float, Field(ge=1e-12, le=1e-3, description="F")]
VoltAmperes = Annotated[float, Field(ge=1, le=20_000, description="VA")]
Watts = Annotated[float, Field(ge=1e-6, le=50_000, description="W")]
Hertz = Annotated[float, Field(ge=1e-3, le=5e6, description="Hz")]
MainsHertz = Annotated[float, Field(ge=40, le=70, description="Hz")]
SignalHertz = Annotated[float, Field(ge=5, le=100_000, description="Hz")]
AmpereSquareSeconds = Annotated[float, Field(ge=1e-9, le=1e6, description="A²s")]
WattPerKelvin = Annotated[float, Field(ge=1e-6, le=10, description="W/K")]
Kelvin = Annotated[float, Field(ge=500, le=10_000, description="K")]
Seconds = Annotated[float, Field(ge=0, le=86_400, description="s")]
TimeConstant = Annotated[float, Field(ge=1e-5, le=86_400, description="s")]
Ratio = Annotated[float, Field(ge=1e-3, le=10_000, description="V/V")]
Efficiency = Annotated[float, Field(ge=0.3, le=1.0, description="fraction, 0.9 for 90 %")]
Share = Annotated[float, Field(ge=0, le=1.0, description="fraction, 0.5 for 50 %")]
Fraction = Annotated[float, Field(ge=0, le=0.9, description="fraction, 0.05 for 5 %")]
Regulation = Annotated[float, Field(ge=0.005, le=0.6, description="fraction, 0.07 for 7 %")]
VoltsPerSecond = Annotated[float, Field(ge=1.0, le=1e10, description="V/s")]
AmpereHours = Annotated[float, Field(ge=1e-3, le=5000, description="Ah")]
Tesla = Annotated[float, Field(ge=1e-3, le=2.0, description="T")]
PlateArea = Annotated[float, Field(ge=1e-3, le=5.0, description="m2")]
GapMetres = Annotated[float, Field(ge=1e-7, le=0.01, description="m")]
SquareMetres = Annotated[float, Field(ge=1e-9, le=0.1, description="m2")]
Metres = Annotated[float, Field(ge=1e-6, le=100, description="m")]
Degrees = Annotated[float, Field(ge=-89.0, le=89.0, description="deg")]
Distortion = Annotated[float, Field(gt=0, le=0.5, description="fraction, 0.001 for 0.1 %")]
Decibels = Annotated[float, Field(ge=0, le=160, description="dB")]
ThermalStep = Annotated[float, Field(ge=0, le=20, description="K/W")]
Celsius = Annotated[float, Field(ge=-40, le=300, description="°C")]
KelvinPerWatt = Annotated[float, Field(ge=1e-4, le=200, description="K/W")]
JoulePerKelvin = Annotated[float, Field(ge=1e-4, le=1e6, description="J/K")]
Year = Annotated[int, Field(ge=1930, le=2200)]
PerKelvin = Annotated[float, Field(ge=-0.1, le=0.1, description="1/K")]
