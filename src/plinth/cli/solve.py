"""``plinth solve`` and ``plinth schema``."""

import dataclasses
import json
import math
import os
import sys
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinth.builds.files import BuildFileError, parse_situation, read_build
from plinth.judge.rules import judge
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.mains_unstated import UNSTATED, u_without_mains
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.report.file_out import write_whole
from plinth.units.shown import shown_with_spread

BAD_INPUT = 2


def run_solve(
    path: Path,
    situation_words: list[str],
    *,
    as_json: bool,
    waveforms: Path | None = None,
    samples: int = 0,
    thd: bool = False,
    steps: bool = False,
) -> int:
    """Print the figures of the build in ``path``; 0, or 2 with a sentence on stderr."""
    if samples and not 100 <= samples <= 100_000:
        return _refuse(f"--samples: found {samples}, expected 100 to 100000: 2000 tell a spread to about 2 %")
    try:
        build = read_build(path)
        situation = parse_situation(situation_words)
        prediction = solve(build, situation)
    except BuildFileError as error:
        return _refuse(str(error))
    except PhysicsError as error:
        return _refuse(f"{path}: found a build that cannot run, expected one that can: {error}")
    if waveforms is not None:
        if waveforms.exists() and waveforms.samefile(path):
            return _refuse(f"--waveforms: found {waveforms}, the build file itself, expected another name")
        try:
            write_whole(waveforms, waveforms_csv(prediction))
        except OSError as error:
            return _refuse(
                f"{waveforms}: found no place to write ({error.strerror or error}), expected another name or folder"
            )
    overdriven = None
    if thd:
        try:
            overdriven = clip_power_thd(prediction)
        except PhysicsError as error:
            return _refuse(f"--thd: found {error}, expected a load that is a resistance: leave --thd out")
    stepped = None
    if steps:
        try:
            stepped = stepped_mains(prediction)
        except PhysicsError as error:
            return _refuse(f"--mains-steps: {error}: leave --mains-steps out")
    document, table = as_document(prediction) if as_json else {}, "" if as_json else as_table(prediction)
    if overdriven is not None:
        document["clip_power_thd"] = overdriven
        table += f"\n\n{overdriven['sentence']}"
    if stepped is not None:
        document["mains_steps"] = stepped["steps"]
        table += f"\n\n{stepped['sentence']}"
    if samples:
        try:
            sampled = sampled_clip_power(prediction, samples)
        except PhysicsError as error:
            return _refuse(f"--samples: {error}: leave --samples out")
        document["clip_power_sampled"] = sampled
        table += f"\n\n{sampled['sentence']}"
    return _write(json.dumps(document, indent=2, ensure_ascii=False) if as_json else table)


def run_schema(name: str) -> int:
    """Print a JSON Schema, by its name."""
    from plinth.cli.schemas import schema_text

    return _write(schema_text(name).rstrip("\n"))


def as_document(prediction: Prediction) -> dict[str, object]:
    """Figures, margins and warnings as plain data. Infinite and unknown values are null."""
    return {
        "build": prediction.build.name,
        "situation": prediction.situation.model_dump(),
        "figures": {
            name: {
                "label": figure.label,
                "value": _finite(figure.value),
                "unit": figure.unit,
                "u": _finite(figure.u),
                "estimated": list(figure.estimated),
            }
            for name, figure in prediction.figures.items()
        },
        "margins": {
            margin.key: {
                "label": margin.label,
                "state": str(margin.state),
                "value": None if margin.figure is None else _finite(margin.figure.value),
                "limit": margin.limit,
                "room": _finite(margin.room),
                "room_percent": _finite(margin.room_percent),
                "unit": margin.unit,
                "sentence": margin.sentence,
                "fix": margin.fix,
            }
            for margin in judge(prediction)
        },
        "warnings": list(prediction.warnings),
    }


def clip_power_thd(prediction: Prediction) -> dict[str, object]:
    """Power per channel at 1 % and at 10 % distortion, beside that at onset. Raises PhysicsError where not computed."""
    from plinth.predict.circuits import drive_of
    from plinth.predict.distortion import can_overdrive, power_at_thd

    drive = drive_of(prediction.build, prediction.situation)
    circuit = drive.at_clip(prediction.points.circuit)
    if not can_overdrive(circuit):
        raise PhysicsError("a load whose clipped current is not computed")
    onset, overdriven = power_at_thd(circuit, drive, (0.01, 0.10))
    at_1, at_10 = (at.power_w for at in overdriven)
    # What the tolerances do to the onset they do to these as well.
    u = prediction["clip_power_w"].u / prediction["clip_power_w"].value
    return {
        "onset_w": onset,
        "thd_1_w": at_1,
        "thd_10_w": at_10,
        "u_thd_1_w": u * at_1,
        "u_thd_10_w": u * at_10,
        "sentence": "Clip power per channel, distortion from 20 harmonics: "
        f"{shown_with_spread(at_1, 2 * u * at_1, 'W')} at 1 %, {shown_with_spread(at_10, 2 * u * at_10, 'W')} at 10 %; "
        f"{onset:.3g} W at onset.",
    }


def stepped_mains(prediction: Prediction) -> dict[str, Any]:
    """Rails and current from the wall at each step of a variable transformer. Raises PhysicsError without one."""
    from plinth.predict.mains_steps import mains_steps
    from plinth.predict.wall import cores_stated

    lines = ["Variable transformer, at rest (dwell is practice; old capacitors want hours at low steps):"]
    steps = mains_steps(prediction.build, prediction.situation)
    for step in steps:
        rail = shown_with_spread(step.rail_v, 2.0 * step.u_rail_v, "V")
        wall = shown_with_spread(step.primary_rms_a, 2.0 * step.u_primary_rms_a, "A")
        words = "modules at work" if step.awake else "modules below their lowest rail"
        lines.append(f"  {step.mains_v_rms:5.0f} V   {rail:<16} {wall:<18} {words}, {step.dwell_s:.0f} s")
    stated = cores_stated(prediction.build)
    if not stated:
        lines.append(
            "  Currents without what the transformers' cores take, which is not stated: asleep it may be most."
        )
    flat = "a flat top of the mains and " if prediction.situation.third_harmonic == 0.0 else ""
    lines.append(f"  Spreads without {flat}the wires of the house, which nobody states.")
    rows = [dataclasses.asdict(step) | {"cores_stated": stated} for step in steps]
    return {"steps": rows, "sentence": "\n".join(lines)}


def sampled_clip_power(prediction: Prediction, samples: int) -> dict[str, object]:
    """Mean, standard deviation and 95 % range of the clip power over random inputs, beside the propagated figure."""
    from plinth.predict.batch_onsets import sampled_clip_power_w

    power = sampled_clip_power_w(prediction.build, prediction.situation, samples)
    ran = power[np.isfinite(power)]
    if len(ran) == 0:
        raise PhysicsError(f"none of {samples} random samples of the inputs can run")
    low, high = (float(x) for x in np.percentile(ran, [2.5, 97.5]))
    figure = prediction["clip_power_w"]
    # What nobody states of the mains is no input that could be drawn: it is left out on both sides.
    u = u_without_mains(figure)
    left_out = sorted({row.label for row in figure.contributions if row.key in UNSTATED})
    return {
        "samples": samples,
        "cannot_run": samples - len(ran),
        "mean_w": float(np.mean(ran)),
        "u_w": float(np.std(ran)),
        "u_propagated_w": u,
        "low_w": low,
        "high_w": high,
        "sentence": f"Of {samples} random samples of the inputs, 95 % clip at {low:.3g} to {high:.3g} W; "
        f"propagated: {figure.value - 2.0 * u:.3g} to {figure.value + 2.0 * u:.3g} W"
        f"{', without ' + ', '.join(left_out) if left_out else ''}. {samples - len(ran)} cannot run.",
    }


def waveforms_csv(prediction: Prediction) -> str:
    """One common period as CSV, SI: time, mains, rails (− rail negative), source, load and mains currents, output."""
    state, wall = prediction.state, prediction.wall
    t = np.linspace(0.0, state.period.shared.seconds, state.period.steps + 1)
    columns: dict[str, NDArray[np.float64]] = {"t_s": t}
    if wall is not None:
        columns["mains_v"], columns["mains_a"] = wall.at(t)
    for key, sign, rail in (("plus", 1.0, state.plus), ("minus", -1.0, state.minus)):
        if rail is not None:
            columns[f"rail_{key}_v"] = sign * rail.v_node
            columns[f"diode_{key}_a"] = rail.i_diode_a
            columns[f"load_{key}_a"] = rail.i_load_a
    columns["output_v"] = state.v_output
    rows = zip(*(column.tolist() for column in columns.values()), strict=True)
    return "\n".join([",".join(columns), *(",".join(f"{x:.9g}" for x in row) for row in rows)]) + "\n"


def as_table(prediction: Prediction) -> str:
    """Figures, margins and warnings as lines for people."""
    lines = [f"{prediction.build.name}: predicted, ± about 95 %, ~ rests on an estimate", ""]
    for figure in prediction.figures.values():
        mark = "~" if figure.estimated else " "
        value = shown_with_spread(figure.value, figure.spread, figure.unit)
        lines.append(f"  {figure.label:<34}{mark} {value:<22} {figure.name}")
    lines += ["", "Margins"]
    for margin in judge(prediction):
        value = (
            (margin.said or "–")
            if margin.figure is None
            else shown_with_spread(margin.figure.value, margin.figure.spread, margin.unit)
        )
        lines.append(f"  {margin.state:<8}{margin.label:<32}{value:<18}{margin.limit_words}")
        lines.append(f"  {'':<8}{margin.sentence} {margin.fix}".rstrip())
    if prediction.warnings:
        lines += ["", *prediction.warnings]
    return "\n".join(lines)


def _finite(value: float) -> float | None:
    return value if math.isfinite(value) else None


def _refuse(sentences: str) -> int:
    sys.stderr.write(sentences + "\n")
    return BAD_INPUT


def _write(text: str) -> int:
    try:
        sys.stdout.write(text + "\n")
        sys.stdout.flush()
    except BrokenPipeError:
        # The reader (head, less) has had enough; keep the interpreter from complaining once more at exit.
        _let_go_of_stdout()
    except OSError as error:
        _let_go_of_stdout()
        return _refuse(
            f"The figures could not be written ({error.strerror or error}): free some space, or write them elsewhere"
        )
    return 0


def _let_go_of_stdout() -> None:
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
