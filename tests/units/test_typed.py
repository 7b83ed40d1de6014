import math

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from plinth.units.bounds import Bound
from plinth.units.errors import AmbiguousError, QuantityError
from plinth.units.level import Form, read_level
from plinth.units.shown import MINUS, shown, shown_with_spread, split
from plinth.units.typed import Quantity, read_number, read_quantity, read_secondary, understand_quantity


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("4k7", "ohm", 4700.0),
        ("0R22", "ohm", 0.22),
        ("0.33", "ohm", 0.33),
        ("2M2", "ohm", 2.2e6),
        ("1,2 kΩ", "ohm", 1200.0),
        ("6800u", "F", 6.8e-3),
        ("10mF", "F", 0.01),
        ("4u7", "F", 4.7e-6),
        ("33mV", "V", 0.033),
        ("26,4", "V", 26.4),
        ("−7 mV", "V", -0.007),
        ("120 mA", "A", 0.12),
        ("1k", "Hz", 1000.0),
        ("2.5 kHz", "Hz", 2500.0),
        ("25 °C", "°C", 25.0),
        ("50 %", "%", 50.0),
        ("1.2e3", "V", 1200.0),
    ],
)
def test_quantities_are_read_as_they_are_spoken(text: str, unit: str, value: float) -> None:
    assert read_quantity(text, unit) == pytest.approx(value)


def test_a_bare_number_takes_the_prefix_of_the_meter() -> None:
    assert read_quantity("33.5", "V", "m") == pytest.approx(0.0335)
    assert read_quantity("0.0335 V", "V", "m") == pytest.approx(0.0335)
    assert read_quantity("33.5 mV", "V", "m") == pytest.approx(0.0335)


@pytest.mark.parametrize(
    ("text", "unit", "says"),
    [
        ("", "V", "nothing"),
        ("abc", "V", "expected a number"),
        ("33 mA", "V", "in A"),
        ("4R7", "V", "ohms"),
        ("12 V V", "V", "expected a value in V"),
        ("nan", "V", "expected a number"),
        ("1e999", "V", "finite"),
        ("12 furlongs", "ohm", "expected a value in ohm"),
    ],
)
def test_nonsense_is_refused_with_found_and_expected(text: str, unit: str, says: str) -> None:
    with pytest.raises(QuantityError) as caught:
        read_quantity(text, unit)
    assert says in str(caught.value)
    assert "found" in str(caught.value)
    assert "expected" in str(caught.value)


@given(st.floats(-1e6, 1e6).filter(lambda x: abs(x) > 1e-6))
def test_numbers_survive_writing_and_reading_with_either_decimal_sign(value: float) -> None:
    text = f"{value:.6f}"
    assert read_number(text) == pytest.approx(float(text))
    assert read_number(text.replace(".", ",")) == pytest.approx(float(text))


def test_thousands_with_a_decimal_are_told_apart() -> None:
    assert read_number("1,234.5") == pytest.approx(1234.5)
    assert read_number("1.234,5") == pytest.approx(1234.5)


@pytest.mark.parametrize(
    ("text", "volts", "form"),
    [
        ("26.4pp", 26.4, Form.PEAK_TO_PEAK),
        ("26,4 Vpp", 26.4, Form.PEAK_TO_PEAK),
        ("26.4 V p-p", 26.4, Form.PEAK_TO_PEAK),
        ("9.3 rms", 9.3, Form.RMS),
        ("900 mVrms", 0.9, Form.RMS),
        ("13.2pk", 13.2, Form.PEAK),
        ("22 Vp", 22.0, Form.PEAK),
        ("9.3", 9.3, None),
        ("9.3 V", 9.3, None),
    ],
)
def test_levels_are_read_as_scope_and_meter_say_them(text: str, volts: float, form: Form | None) -> None:
    read = read_level(text)
    assert read.volts == pytest.approx(volts)
    assert read.form is form


def test_levels_agree_on_one_sine() -> None:
    rms = read_level("9.3 rms").rms()
    assert read_level(f"{9.3 * 2 * math.sqrt(2)}pp").rms() == pytest.approx(rms)
    assert read_level(f"{9.3 * math.sqrt(2)} pk").rms() == pytest.approx(rms)
    with pytest.raises(QuantityError, match="pp, rms or pk"):
        read_level("9.3").rms()


@pytest.mark.parametrize("text", ["", "pp", "-3pp", "0 rms", "loud"])
def test_levels_that_mean_nothing_are_refused(text: str) -> None:
    with pytest.raises(QuantityError, match="expected"):
        read_level(text)


def test_secondaries_as_spoken() -> None:
    assert read_secondary("35-0-35") == (35.0, True)
    assert read_secondary("2x25 V") == (25.0, False)
    with pytest.raises(QuantityError, match="equal halves"):
        read_secondary("35-0-30")
    with pytest.raises(QuantityError, match="expected a secondary"):
        read_secondary("35")


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [
        (0.0123, "A", "12.3 mA"),
        (34.6, "V", "34.6 V"),
        (4700.0, "ohm", "4.70 kΩ"),
        (2e7, "ohm", "20.0 MΩ"),
        (-0.007, "V", f"{MINUS}7.00 mV"),
        (0.01, "F", "10.0 mF"),
        (470e-6, "F", "470 µF"),
        (72.0, "°C", "72.0 °C"),
        (0.0, "V", "0 V"),
        (math.inf, "s", "∞ s"),
        (math.nan, "V", "– V"),
    ],
)
def test_quantities_are_shown_with_prefix_and_sign(value: float, unit: str, text: str) -> None:
    assert shown(value, unit) == text


def test_spread_and_value_end_at_the_same_digit() -> None:
    assert shown_with_spread(57.83, 1.41, "W") == "57.8 ±1.4 W"
    assert shown_with_spread(0.0335, 0.0005, "V") == "33.5 ±0.5 mV"
    assert shown_with_spread(64.2, 5.2, "W") == "64 ±5 W"
    assert shown_with_spread(12.0, 0.0, "V") == "12.0 V"


@given(st.floats(1e-6, 4.9e3))
def test_shown_numbers_can_be_read_again(value: float) -> None:
    number, unit = split(value, "V")
    assert read_quantity(f"{number}{unit}", "V") == pytest.approx(value, rel=0.006)


@pytest.mark.parametrize(
    ("text", "unit", "prefix", "values"),
    [
        ("1,200 mA", "A", "", (1.2e-3, 1.2)),
        ("33,500", "V", "m", (33.5e-3, 33.5)),
        ("6800 MF", "F", "", (6800e-6, 6.8)),
        ("120 MA", "A", "", (0.12,)),
        ("26.4 MV", "V", "", (26.4e-3,)),
        ("26.4p", "V", "", ()),
    ],
)
def test_what_could_be_meant_in_two_ways_is_asked(text: str, unit: str, prefix: str, values: tuple[float, ...]) -> None:
    with pytest.raises(AmbiguousError, match="expected") as asked:
        read_quantity(text, unit, prefix)
    assert asked.value.values == pytest.approx(values)


@pytest.mark.parametrize("text", ["26.4 MVpp", "1,200pp", "9.3 Mrms"])
def test_levels_that_could_mean_two_things_are_asked(text: str) -> None:
    with pytest.raises(AmbiguousError):
        read_level(text)


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [("0,330", "ohm", 0.33), ("1 200", "Hz", 1200.0), ("1,200,000", "ohm", 1.2e6), ("300 K", "°C", 26.85),
     ("4k7", "ohm", 4700.0), ("2M2", "ohm", 2.2e6), ("1 MHz", "Hz", 1e6)],
)  # fmt: skip
def test_what_has_one_meaning_is_not_asked(text: str, unit: str, value: float) -> None:
    assert read_quantity(text, unit) == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "unit", "found"),
    [
        (">100", "W", Quantity(100.0, Bound.ABOVE)),
        ("< 5 mV", "V", Quantity(0.005, Bound.BELOW)),
        ("about 30", "W", Quantity(30.0, Bound.ABOUT)),
        ("~4k7", "ohm", Quantity(4700.0, Bound.ABOUT)),
        ("more than 20M", "ohm", Quantity(20e6, Bound.ABOVE)),
        ("OL", "ohm", Quantity(0.0, Bound.ABOVE, overload=True)),
    ],
)
def test_bounds_are_readings_too(text: str, unit: str, found: Quantity) -> None:
    read = understand_quantity(text, unit)
    assert (read.bound, read.overload) == (found.bound, found.overload)
    assert read.value == pytest.approx(found.value)
    with pytest.raises(QuantityError, match="only a bound"):
        read_quantity(text, unit)


@pytest.mark.parametrize("text", ["4k7 M", "1e200", "9 kV", "-1e9", "1" + " " * 1200 + "x", "x" * 1_000_000, "1_000"])
def test_what_no_bench_can_show_is_refused_in_few_words(text: str) -> None:
    for read in (lambda: read_quantity(text, "V"), lambda: read_level(text)):
        with pytest.raises(QuantityError, match="found") as refused:
            read()
        assert len(str(refused.value)) < 300


_SCRAPS = st.sampled_from(
    [
        *"0123456789.,-+ pPmMkKuµnGvVaAΩrRfFeE%°~<>",
        "pp",
        "rms",
        "p-p",
        "OL",
        "about ",
        "mV",
        "kΩ",
        "K",
        "MF",
        "\x00",
        "∞",
    ]
)


@given(st.lists(_SCRAPS, max_size=14).map("".join), st.sampled_from(["V", "A", "ohm", "W", "F", "Hz", "s", "°C", "%"]))
@settings(max_examples=1500, deadline=None)
def test_any_string_is_a_value_that_can_be_shown_or_a_sentence(text: str, unit: str) -> None:
    for read in (lambda: understand_quantity(text, unit).value, lambda: read_level(text).volts):
        try:
            value = read()
        except QuantityError as error:
            sentence = str(error)
        else:
            assert math.isfinite(value)
            sentence = shown(value, unit) + shown_with_spread(value, abs(value) * 0.02, unit)
        assert 0 < len(sentence) < 400


@given(st.floats(allow_nan=False), st.floats(0.0, allow_nan=False), st.sampled_from(["V", "A", "W", "ohm", "K", "s"]))
@example(0.0, 5e-324, "V")
def test_every_number_that_can_be_kept_can_be_shown(value: float, spread: float, unit: str) -> None:
    assert shown(value, unit)
    assert shown_with_spread(value, spread, unit)


def test_what_no_bench_tells_from_nothing_is_refused() -> None:
    assert read_quantity("0.002p", "F") == pytest.approx(2e-15)
    assert read_quantity("0", "F") == 0.0
    for text in ("1e-320 V", "-1e-320 V", "9e-16 V", "1e-18 A"):
        with pytest.raises(QuantityError, match="no reading is so small"):
            read_quantity(text, text[-1])


def test_a_spread_below_the_last_digit_is_none() -> None:
    assert shown_with_spread(0.368, 1.57e-16, "T") == "368 mT"
    assert shown_with_spread(0.368, 2e-4, "T") == "368.0 ±0.2 mT"
