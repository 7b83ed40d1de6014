"""What is laid over each other of several sides: responses, rails over load, output impedances, spectra."""

import dataclasses
from collections.abc import Mapping

import numpy as np

from plinth.bench import output_impedance, rails
from plinth.bench.every_sheet import readings_for
from plinth.bench.sheet import Graph
from plinth.captures.capture import Capture
from plinth.captures.signal.spectrum import spectrum_of
from plinth.decide.response import response_series
from plinth.decide.side import LETTERS, ROLES, Side
from plinth.drawing.series import Series
from plinth.physics.numbers.errors import PhysicsError

RESPONSE, RAILS, IMPEDANCE, SPECTRUM = "Response", "Rails over load", "Output impedance", "Spectrum"
_LOWEST_DB, _LOWEST_HZ, _COLUMNS = -150.0, 10.0, 600


def overlays_of(sides: tuple[Side, ...]) -> tuple[Graph, ...]:
    """Those that need no samples; each without curves where nothing is known of it."""
    return (
        Graph(RESPONSE, "f", "Hz", "dB to 1 kHz", response_series(sides, LETTERS), log_x=True),
        Graph(RAILS, "current from each rail", "A", "+ rail, V", _rails(sides)),
        Graph(IMPEDANCE, "f", "Hz", "Ω, as far as it was read", _impedances(sides), log_x=True),
    )


def with_spectra(overlays: tuple[Graph, ...], captures: Mapping[int, Capture]) -> tuple[Graph, ...]:
    """The same with the spectra of captures of a tone, by the place of their side."""
    curves = tuple(_spectrum(place, capture) for place, capture in sorted(captures.items()))
    return (*overlays, Graph(SPECTRUM, "f", "Hz", "dB below the strongest line", curves, log_x=True))


def _rails(sides: tuple[Side, ...]) -> tuple[Series, ...]:
    """The + rail over the current drawn from it, as the test of the rails draws it."""
    curves: list[Series] = []
    for place, side in enumerate(sides):
        if side.listing:
            continue
        try:
            sheet = rails.sheet(side.build, side.build.channels[0], side.situation)
        except PhysicsError:
            continue
        graph = None if sheet.graph is None else sheet.graph(readings_for(sheet, side.book))
        for curve in () if graph is None else graph.curves:
            letter = LETTERS[place]
            if curve.role == "pred":
                curves.append(dataclasses.replace(curve, name=f"{letter} predicted", label=letter))
            elif curve.role == "plus":
                role = ROLES[place % len(ROLES)]
                curves.append(dataclasses.replace(curve, name=f"{letter} read", label=letter, role=role))
    return tuple(curves)


def _impedances(sides: tuple[Side, ...]) -> tuple[Series, ...]:
    curves = []
    for place, side in enumerate(sides):
        if side.listing:
            continue
        sheet = output_impedance.sheet(side.build, side.build.channels[0], side.situation)
        read = sorted(output_impedance.impedances(side.build, readings_for(sheet, side.book)))
        if read:
            f_hz, ohm, u = (np.array(column) for column in zip(*read, strict=True))
            role = ROLES[place % len(ROLES)]
            curves.append(
                Series(
                    f"{LETTERS[place]} read", f_hz, ohm, role, "ohm", label=LETTERS[place], label_at="start",
                    spread=2.0 * u, discs=True,
                )
            )  # fmt: skip
    return tuple(curves)


def _spectrum(place: int, capture: Capture) -> Series:
    """The spectrum of the output, which stands last in a capture, in as many columns as a screen has."""
    output = capture.channels[-1].samples
    spectrum = spectrum_of(output, capture.sample_rate_hz, "seven_terms")
    top = max(float(np.max(spectrum.power[1:])), 1e-300)
    decibels = np.maximum(10.0 * np.log10(np.maximum(spectrum.power, 1e-300) / top), _LOWEST_DB)
    first = max(1, int(np.ceil(_LOWEST_HZ / spectrum.bin_hz)))
    edges = np.unique(np.geomspace(first, len(decibels), _COLUMNS).astype(np.int64))
    highest = np.maximum.reduceat(decibels, edges[:-1])
    return Series(
        f"{LETTERS[place]} read", spectrum.frequencies_hz[edges[:-1]], highest, ROLES[place % len(ROLES)], "dB",
        label=LETTERS[place], label_at="start",
    )  # fmt: skip
