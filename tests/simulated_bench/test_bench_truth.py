"""What the simulated bench reads, against the engine's own predictions and plain physics, over the examples."""

import math
import struct

import numpy as np
import pytest

from plinth.builds.situation import Situation
from plinth.predict.solve import solve
from plinth.simulated_bench.fault_effects import effects_of, fault_keys
from plinth.simulated_bench.meter_error import Accuracy, MeterError
from tests.simulated_bench.benches import NAMES, Told, ToldClock, told
from tests.turns import crossed


@pytest.mark.parametrize("name", NAMES)
def test_a_small_signal_comes_out_times_the_gain(name: str) -> None:
    bench = told(name)
    bench.power()
    bench.put("generator", "SOUR:FREQ 1000;VOLT 100MV;:OUTP ON")
    build = bench.bench.amplifier.build
    gain = build.module.gain * (2.0 if build.wiring == "bridged" else 1.0)
    read = bench.ask("meter", "MEAS:VOLT:AC?")
    assert read == pytest.approx(0.1 * gain, rel=0.002)
    assert bench.ask("meter", "MEAS:VOLT:DC?") == pytest.approx(0.3 * build.module.offset_max_v, abs=2e-3)


@pytest.mark.parametrize("name", [name for name in NAMES if told(name).bench.amplifier.has_mains])
def test_rails_and_wall_are_those_of_the_prediction(name: str) -> None:
    bench = told(name)
    bench.power()
    build = bench.bench.amplifier.build
    rest = solve(build, Situation(level=0.0, channels_driven="one"))
    rail = rest.points.idle.plus
    assert bench.ask("second meter", "MEAS:VOLT:DC?") == pytest.approx(float(np.mean(rail.v_node)), rel=0.006)
    bench.put("load", "SOUR:RES 8;:INP ON")
    # Half the clip voltage into 8 ohm.
    loud = solve(build, Situation(level=0.5, load_ohm=8.0, channels_driven="one"))
    volts = 0.5 * loud.points.clip_v_peak / math.sqrt(2.0)
    gain = bench.bench.amplifier.build.module.gain
    bench.put("generator", f"SOUR:VOLT {volts / gain};:OUTP ON")
    assert bench.ask("meter", "MEAS:VOLT:AC?") == pytest.approx(volts, rel=0.01)
    assert loud.wall is not None
    assert bench.ask("mains", "MEAS:POW?") == pytest.approx(loud.wall.flow.p_w, rel=0.03, abs=1.0)
    assert bench.ask("mains", "MEAS:CURR?") == pytest.approx(loud.wall.flow.i_rms_a, rel=0.03, abs=0.01)
    watts, va = bench.ask("mains", "MEAS:POW?"), bench.ask("mains", "MEAS:POW:AC:APP?")
    assert bench.ask("mains", "MEAS:POW:AC:PFAC?") == pytest.approx(watts / va, rel=0.02)


@pytest.mark.parametrize("name", NAMES)
def test_an_output_that_is_driven_too_far_is_held_and_draws_more_than_it_gives(name: str) -> None:
    bench = told(name)
    bench.power()
    bench.put("load", "SOUR:RES 8;:INP ON")
    bench.put("generator", "SOUR:VOLT 4;:OUTP ON")
    read = bench.ask("meter", "MEAS:VOLT:AC?")
    rail = bench.ask("second meter", "MEAS:VOLT:DC?")
    build = bench.bench.amplifier.build
    legs = 2.0 if build.wiring == "bridged" or build.module.bridge_by_itself else 1.0
    assert 0.5 * rail * legs / math.sqrt(2.0) < read < rail * legs
    if bench.bench.amplifier.has_mains:
        assert bench.ask("mains", "MEAS:POW?") > read**2 / 8.0


def test_the_load_takes_its_share_behind_the_output_resistance() -> None:
    bench = told("stage-pair")
    bench.power()
    bench.put("generator", "SOUR:VOLT 0.1;:OUTP ON")
    unloaded = bench.ask("meter", "MEAS:VOLT:AC?")
    bench.put("load", "SOUR:RES 4;:INP ON")
    loaded = bench.ask("meter", "MEAS:VOLT:AC?")
    own = bench.bench.amplifier.build.module.r_output_ohm or 0.02
    assert unloaded / loaded - 1.0 == pytest.approx(own / 4.0, abs=4e-4)


@pytest.mark.parametrize("hz", [10.0, 50_000.0])
def test_high_and_low_notes_fall_by_the_corners_of_the_module(hz: float) -> None:
    bench = told("stage-pair")
    module = bench.bench.amplifier.build.module
    bench.power()
    bench.put("generator", f"SOUR:FREQ {hz};VOLT 0.05;:OUTP ON")
    part = 1.0 / math.sqrt((1.0 + (module.f_low_hz / hz) ** 2) * (1.0 + (hz / module.f_high_hz) ** 2))
    assert part < 0.98
    assert bench.ask("meter", "MEAS:VOLT:AC?") == pytest.approx(0.05 * module.gain * part, rel=0.003)


def test_rails_empty_by_the_modules_then_by_the_bleeder() -> None:
    bench = told("stage-pair")
    bench.power()
    full = bench.ask("second meter", "MEAS:VOLT:DC?")
    bench.put("mains", "OUTP OFF")
    amplifier = bench.bench.amplifier
    assert bench.ask("second meter", "MEAS:VOLT:DC?") == pytest.approx(full, rel=2e-3)
    assert bench.error("meter", "MEAS:RES?") == -221
    bench.clock.seconds += 0.3
    now = bench.ask("second meter", "MEAS:VOLT:DC?")
    assert full > now > 0.0
    # Below the rail that wakes them, a time constant of the bleeder takes it to 1 / e.
    bench.clock.seconds += 60.0
    asleep = bench.ask("second meter", "MEAS:VOLT:DC?")
    tau = amplifier.bleeder_ohm * amplifier.reservoir_f
    bench.clock.seconds += tau
    assert bench.ask("second meter", "MEAS:VOLT:DC?") == pytest.approx(asleep / math.e, rel=0.02, abs=0.02)
    bench.clock.seconds += 20.0 * tau
    assert bench.ask("meter", "MEAS:RES?") > 100.0


def test_awake_modules_take_the_charge_of_the_reservoirs_at_their_current() -> None:
    bench = told("stage-pair")
    bench.power()
    full = bench.ask("second meter", "MEAS:VOLT:DC?")
    bench.put("mains", "OUTP OFF")
    bench.clock.seconds += 0.2
    build = bench.bench.amplifier.build
    # I t = C (V - v), for the boards that hang on one supply.
    boards = 1 if build.one_supply_per_channel else len(build.channels)
    drawn = boards * (build.module.i_quiescent_a + build.module.driver_a)
    fallen = drawn * 0.2 / bench.bench.amplifier.reservoir_f
    assert full - fallen > build.module.v_rail_min
    assert full - bench.ask("second meter", "MEAS:VOLT:DC?") == pytest.approx(fallen, rel=0.02)


def test_ripple_comes_through_as_far_as_the_module_lets_it() -> None:
    bench = told("stage-pair")
    bench.power()
    bench.put("digitiser", "SENS:SWE:POIN 400000;SRAT 20000;:SENS:VOLT2:RANG 0.05;:INIT")
    output = np.frombuffer(bench.by_role["digitiser"].handle("FETC2?")[9:], ">f4").astype(float)
    bench.put("digitiser", "SENS:FUNC2 PRAil;:SENS:VOLT2:RANG 50;:INIT")
    rail = np.frombuffer(bench.by_role["digitiser"].handle("FETC2?")[9:], ">f4").astype(float)
    line = np.exp(-2j * math.pi * 100.0 * np.arange(400_000) / 20_000.0)
    share = abs(np.dot(output, line)) / abs(np.dot(rail, line))
    stated = bench.bench.amplifier.build.module.rejection_db or 70.0
    assert share == pytest.approx(10.0 ** (-stated / 20.0), rel=0.1)


def test_the_supply_limits_its_current() -> None:
    bench = told("stage-pair")
    bench.put("supply", "SOUR:VOLT 25;CURR 2;:OUTP ON")
    bench.clock.seconds += 1.0
    draws = bench.ask("supply", "MEAS:CURR?")
    assert bench.ask("supply", "MEAS:VOLT?") == pytest.approx(25.0, rel=2e-3)
    assert draws > 0.02
    bench.put("supply", f"SOUR:CURR {draws / 2.0}")
    bench.clock.seconds += 1.0
    assert bench.ask("supply", "MEAS:CURR?") == pytest.approx(draws / 2.0, abs=3e-3)
    assert bench.ask("supply", "MEAS:VOLT?") < 15.0


def test_two_sources_at_once_are_a_conflict() -> None:
    bench = told("stage-pair")
    bench.put("mains", "OUTP ON")
    assert bench.error("supply", "OUTP ON") == -221
    bench.put("mains", "OUTP OFF")
    bench.put("supply", "OUTP ON")
    assert bench.error("mains", "OUTP ON") == -221
    assert told("street-box").error("mains", "OUTP ON") == -221


def test_the_sink_warms_towards_heat_times_its_resistance() -> None:
    bench = told("foyer")
    bench.power()
    cold = bench.ask("thermometer", "MEAS:TEMP?")
    assert cold == pytest.approx(23.0, abs=1.5)
    state = bench.bench.steady()
    assert state is not None
    sink = bench.bench.amplifier.build.sink
    end = 23.0 + state.heat_w * (sink.r_k_per_w or 0.6)
    bench.clock.seconds += 1e6
    assert bench.ask("thermometer", "MEAS:TEMP?") == pytest.approx(end, abs=1.5)
    assert end > 30.0


def test_the_digitiser_hands_over_what_stands_there() -> None:
    bench = told("stage-pair")
    bench.power()
    bench.put("generator", "SOUR:VOLT 0.2;:OUTP ON")
    digitiser = bench.by_role["digitiser"]
    assert bench.error("digitiser", "FETC1?") == -230
    bench.put("digitiser", "SENS:SWE:POIN 4800;SRAT 48000;:SENS:VOLT2:RANG 10;:INIT")
    data = digitiser.handle("FETC2?")
    assert data.startswith(b"#519200")
    wave = np.frombuffer(data[7:], ">f4")
    gain = bench.bench.amplifier.build.module.gain
    assert float(np.std(wave)) == pytest.approx(0.2 * gain, rel=2e-3)
    drive = np.frombuffer(digitiser.handle("FETC1?")[7:], ">f4")
    assert float(np.std(drive)) == pytest.approx(0.2, rel=2e-3)
    steps = np.diff(np.unique(wave.astype(float)))
    assert float(np.min(steps)) == pytest.approx(20.0 / 2**16, rel=0.01)
    bench.put("digitiser", "FORM:BORD SWAP")
    assert struct.unpack("<f", digitiser.handle("FETC2?")[7:11])[0] == pytest.approx(float(wave[0]), abs=1e-6)
    bench.put("digitiser", 'SENS:FUNC2 "PRAil";:SENS:VOLT2:RANG 100;:INIT')
    rail = np.frombuffer(digitiser.handle("FETC2?")[7:], "<f4")
    assert float(np.mean(rail)) == pytest.approx(bench.ask("second meter", "MEAS:VOLT:DC?"), rel=3e-3)
    assert bench.error("digitiser", "FETC3?") == -114
    assert bench.error("digitiser", "SENS:FUNC2 NOWHere") == -141


@pytest.mark.parametrize("key", fault_keys())
def test_every_fault_of_the_catalogue_can_be_laid_on(key: str) -> None:
    bench = told("stage-pair", key)
    healthy = told("stage-pair")
    for each in (bench, healthy):
        each.power()
        each.put("generator", "SOUR:VOLT 0.1;:OUTP ON")
    rows = [
        ("second meter", "MEAS:VOLT:DC?"), ("second meter", "MEAS:VOLT:AC?"), ("meter", "MEAS:VOLT:AC?"),
        ("meter", "MEAS:VOLT:DC?"), ("mains", "MEAS:POW?"),
    ]  # fmt: skip
    differs = any(abs(bench.ask(*row) - healthy.ask(*row)) > 0.02 * abs(healthy.ask(*row)) + 1e-3 for row in rows)
    state = bench.bench.steady()
    if key == "slip":
        # The reader's own mistake: nothing is wrong with what is read.
        assert not differs
    elif key in ("other resistor", "emitter open", "swapped output"):
        # Seen in the bias, or in the sign alone.
        assert state is not None
    else:
        assert differs, key


def test_faults_are_named_by_the_catalogue_only() -> None:
    with pytest.raises(KeyError):
        effects_of("gremlins")
    assert effects_of(None) == effects_of("slip")


def test_a_meter_errs_within_what_it_states_and_shows_its_last_digit() -> None:
    accuracy = Accuracy(share=0.002, of_range=0.0003, digits=2000)
    clock = ToldClock()
    clock.seconds = 1e5
    worst = 0.0
    for seed in range(200):
        meter = MeterError(accuracy, np.random.default_rng(seed), clock)
        shown = meter.of(1.234, 2.0)
        assert shown / 0.001 == pytest.approx(round(shown / 0.001), abs=1e-6)
        worst = max(worst, abs(shown - 1.234))
    assert 0.0005 < worst < 1.234 * 0.002 + 2.0 * 0.0003 + 0.001


def test_a_range_that_is_too_small_shows_an_overload() -> None:
    bench = told("stage-pair")
    bench.power()
    assert bench.ask("second meter", "MEAS:VOLT:DC? 2") == pytest.approx(9.9e37)
    assert bench.ask("second meter", "MEAS:VOLT:DC? 200") < 100.0


def test_reset_of_everything_is_off() -> None:
    bench: Told = told("stage-pair")
    bench.power()
    bench.put("generator", "OUTP ON")
    bench.put("load", "INP ON")
    for role in bench.by_role:
        bench.put(role, "*RST")
    settings = bench.bench.settings
    assert [settings.mains_on, settings.generator_on, settings.supply_on, settings.load_on] == [False] * 4


@pytest.mark.parametrize(
    ("name", "fault"), crossed(NAMES, [None, "device shorted", "rail missing", "primary halved"], 4)
)
def test_any_settings_end_in_numbers(name: str, fault: str | None) -> None:
    bench = told(name, fault)
    dice = np.random.default_rng(len(name))
    asked = [
        ("mains", "MEAS:VOLT?;CURR?;POW?"), ("meter", "MEAS:VOLT:AC?;DC?"), ("second meter", "MEAS:VOLT:AC?;DC?"),
        ("supply", "MEAS:CURR?;VOLT?"), ("thermometer", "MEAS:TEMP?"),
    ]  # fmt: skip
    for _ in range(5):
        lines = [
            ("generator", f"SOUR:FREQ {np.exp(dice.uniform(1.7, 11.4))};VOLT {dice.choice([0.0, 0.01, 1.0, 10.0])}"),
            ("generator", f"OUTP {dice.integers(2)}"), ("load", f"SOUR:RES {dice.uniform(1.0, 20.0)}"),
            ("load", f"INP {dice.integers(2)}"), ("supply", f"SOUR:VOLT {dice.uniform(0.0, 80.0)}"),
            ("supply", f"SOUR:CURR {dice.uniform(0.01, 10.0)}"), ("supply", f"OUTP {dice.integers(2)}"),
            ("mains", f"SOUR:VOLT {dice.uniform(20.0, 280.0)};FREQ {dice.uniform(45.0, 65.0)}"),
            ("mains", f"OUTP {dice.integers(2)}"),
        ]  # fmt: skip
        for role, line in lines:
            assert bench.error(role, line) in (0, -221)
        bench.clock.seconds += float(dice.exponential(3.0))
        for role, line in asked:
            answers = [float(text) for text in bench.by_role[role].handle(line).split(b";")]
            assert all(math.isfinite(value) for value in answers)
            assert all(abs(value) < 1e6 for value in answers), (role, answers)
