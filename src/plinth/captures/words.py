"""Names of figures as a builder says them."""

import re

_WORDS = {
    "rows": "samples", "rows_used": "samples used", "missing": "cells without a number",
    "sample_rate_hz": "sample rate",
    "mean": "mean of all samples", "rms_ac": "rms about the mean", "frequency_hz": "frequency",
    "rms": "rms, direct part in",
    "dc": "direct part", "crest": "crest factor", "thd_db": "distortion (THD)", "sinad_db": "signal to all else",
    "enob_bits": "effective bits", "noise_a_rms": "noise, A-weighted", "noise_468_rms": "noise, ITU-R 468",
    "imd_db": "intermodulation", "tone_low_hz": "lower tone", "tone_high_hz": "upper tone",
    "tone_low_rms": "lower tone, rms", "tone_high_rms": "upper tone, rms",
    "levels": "levels told apart", "gain": "gain", "onset_rms_v": "clipping begins", "onset_power_w": "power at onset",
    "level_at_1pct_thd_rms_v": "level at 1 % THD", "power_at_1pct_thd_w": "power at 1 % THD",
    "level_at_10pct_thd_rms_v": "level at 10 % THD", "power_at_10pct_thd_w": "power at 10 % THD",
    "mean_v": "mean", "pp_v": "peak to peak", "nearest_zero_v": "nearest to zero",
    "ripple_hz": "ripple, frequency",
    "ripple_rms_v": "ripple, rms", "conduction_deg": "conduction, of the mains",
    "discharge_tau_s": "falls with", "bass_hz": "bass, frequency", "bass_rms_v": "bass, rms",
    "gain_1k_db": "gain at 1 kHz", "minus_3db_lo_hz": "lower -3 dB", "minus_3db_hi_hz": "upper -3 dB",
    "delay_s": "delay",
    "muting_delay_s": "muting delay", "bounce_s": "bounce", "dc_trip_s": "DC trip", "release_s": "release",
    "zout_ohm": "output impedance", "damping": "damping factor",
    "v_rms": "volts, rms", "i_rms": "amperes, rms", "i_peak_a": "peak current", "i_crest": "crest of the current",
    "p_w": "true power", "s_va": "apparent power", "pf": "power factor",
    "i2t_first_100ms_a2s": "I²t, first 0.1 s", "i2t_first_half_cycle_a2s": "I²t, first half cycle",
    "step_v": "step", "rest_s": "time to rest", "rest_v": "rests at",
    "lowest": "lowest sample", "highest": "highest sample", "pp": "lowest to highest",
}  # fmt: skip
_EDGE = {
    "10_90_s": "time, 10 to 90 %", "overshoot_pct": "overshoot", "settle_1pct_s": "settles within 1 %",
    "slew_v_per_s": "steepest slope", "ringing_hz": "rings at", "damping": "damping ratio", "tilt_pct": "tilt",
    "droop_pct": "droop to the next edge",
}  # fmt: skip
_PATTERNS = (
    (re.compile(r"h(\d+)_db"), "harmonic {}"),
    (re.compile(r"h(\d+)_phase_deg"), "phase of harmonic {}"),
    (re.compile(r"thdn_20_(\d+)k_db"), "THD+N, 20 Hz to {} kHz"),
    (re.compile(r"thdn_(\d+)k_(\d+)k_db"), "all else, {} to {} kHz"),
    (re.compile(r"noise_rms_20_20k"), "noise, 20 Hz to 20 kHz"),
    (re.compile(r"noise_rms_(.+)_(.+)"), "noise, {} to {} Hz"),
    (re.compile(r"hum_(\d+)hz_rms"), "hum at {} Hz"),
    (re.compile(r"line_(\d+)hz_db"), "line at {} Hz"),
    (re.compile(r"gain_(.+)hz_db_re_1k"), "gain at {} Hz, to 1 kHz"),
    (re.compile(r"phase_(.+)hz_deg"), "phase at {} Hz"),
    (re.compile(r"h(\d+)_at_(.+)hz_db"), "order {} at {} Hz"),
    (re.compile(r"i_h(\d+)_a"), "current, harmonic {}"),
)
KIND_WORDS = {
    "tone": "one tone", "intermodulation": "two tones", "levels": "a sweep of levels", "rail": "a rail",
    "edge": "edges of a square wave", "sweep": "a sweep of frequency", "relay": "a muting relay",
    "impedance": "an output with and without its load", "mains": "the mains side", "plain": "nothing in particular",
}  # fmt: skip


def label_of(name: str) -> str:
    """What a figure is called on a screen; its own name where it has no other."""
    if name in _WORDS:
        return _WORDS[name]
    for edge in ("rise", "fall"):
        if name.startswith(f"{edge}_") and name[5:] in _EDGE:
            return f"{'rising' if edge == 'rise' else 'falling'}: {_EDGE[name[5:]]}"
    for pattern, words in _PATTERNS:
        match = pattern.fullmatch(name)
        if match is not None:
            return words.format(*match.groups())
    return name


def shown_unit(name: str, unit: str) -> str:
    """The unit on a screen: shares in per cent are told by the figure's name."""
    return "%" if name.endswith("_pct") else {"deg": "°"}.get(unit, unit)
