"""A sound file (WAV, FLAC, AIFF), read by libsndfile."""

import io
import struct
from pathlib import Path
from typing import BinaryIO

import numpy as np
import soundfile

from plinth.captures.capture import FULL_SCALE, LEAST_ROWS, MOST_SAMPLES, Capture, CaptureError, Channel
from plinth.captures.writing import written_scale

_STEPS = {"PCM_S8": 2.0**-7, "PCM_U8": 2.0**-7, "PCM_16": 2.0**-15, "PCM_24": 2.0**-23, "PCM_32": 2.0**-31}
_MAGIC = (b"RIFF", b"RIFX", b"RF64", b"fLaC", b"FORM", b"OggS", b"caff", b".snd")
_MOST_CHANNELS = 64


class _Bytes(io.BytesIO):
    """Bytes in which a damaged file may ask for a place before the first one: it stays where it is."""

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        try:
            return super().seek(offset, whence)
        except (ValueError, OSError):
            return self.tell()


def is_audio(head: bytes) -> bool:
    """Whether the first bytes are those of a sound file."""
    return head[:4] in _MAGIC


def read_audio(data: bytes, name: str, span_s: tuple[float, float] | None = None) -> Capture:
    """The capture in ``data``, or the part of it from and to ``span_s``, in full scale.

    Raises CaptureError where libsndfile refuses it.
    """
    remarks: list[str] = []
    return _read(_Bytes(_honest_length(data, remarks)), name, remarks, span_s)


def read_part(path: Path, span_s: tuple[float, float]) -> Capture:
    """A part of a large file, in full scale. Raises CaptureError where libsndfile refuses it."""
    try:
        with path.open("rb") as file:
            return _read(file, path.name, [], span_s)
    except OSError as error:
        raise CaptureError(f"found no readable file ({error.strerror or error}), expected one") from error


def _read(file: BinaryIO, name: str, remarks: list[str], span_s: tuple[float, float] | None) -> Capture:
    try:
        with soundfile.SoundFile(file) as sound:
            rate: float = sound.samplerate
            subtype, declared, count, comment = sound.subtype, sound.frames, sound.channels, sound.comment
            if count > _MOST_CHANNELS:
                raise CaptureError(f"found {count} channels, expected {_MOST_CHANNELS} at most")
            frames = declared if span_s is None else _to_part(sound, span_s, remarks)
            if frames * count > MOST_SAMPLES:
                raise CaptureError(
                    f"found {frames * count / 1e6:.0f} million samples, expected {MOST_SAMPLES / 1e6:.0f} million at "
                    "most: give --span for a part of it"
                )
            samples = sound.read(frames, dtype="float64", always_2d=True)
    except (soundfile.LibsndfileError, RuntimeError, MemoryError) as error:
        raise CaptureError(f"found a sound file that cannot be read ({error}), expected a whole one") from error
    if len(samples) < LEAST_ROWS:
        raise CaptureError(f"found {len(samples)} samples in it, expected at least {LEAST_ROWS}")
    if rate <= 0:
        raise CaptureError(f"found {rate} samples a second, expected more than 0")
    if len(samples) < frames < 2**40:
        remarks.append(f"Its head says {declared} samples; {len(samples)} are there.")
    channels = []
    for index in range(samples.shape[1]):
        values = np.ascontiguousarray(samples[:, index])
        sound_values = np.isfinite(values)
        if sound_values.sum() < LEAST_ROWS:
            raise CaptureError(f"channel {index + 1}: found no numbers in it, expected samples")
        channels.append(
            Channel(
                f"ch{index + 1}", np.where(sound_values, values, 0.0), FULL_SCALE, step=_STEPS.get(subtype, 0.0),
                missing=int((~sound_values).sum()), gaps=None if sound_values.all() else ~sound_values,
                ends_at=1.0 if subtype in _STEPS else None,
            )
        )  # fmt: skip
    told = written_scale(comment or "")
    if told is not None and len(told.channels) == len(channels):
        rate = told.rate_hz
        channels = [
            channel if unit == FULL_SCALE else channel.scaled(scale, unit)
            for channel, (scale, unit) in zip(channels, told.channels, strict=True)
        ]
        remarks.append("Its scale is as Plinth wrote it into the file.")
    return Capture(name, tuple(channels), float(rate), tuple(remarks))


def _to_part(sound: soundfile.SoundFile, span_s: tuple[float, float], remarks: list[str]) -> int:
    """Go to where the part begins; how many frames it has. Raises CaptureError where it holds nothing."""
    rate = max(sound.samplerate, 1)
    start, stop = (min(round(edge * rate), sound.frames) for edge in span_s)
    if stop - start < LEAST_ROWS:
        raise CaptureError(
            f"--span: found {stop - start} samples from {span_s[0]:g} to {span_s[1]:g} s of "
            f"{sound.frames / rate:.6g} s, expected at least {LEAST_ROWS}"
        )
    sound.seek(start)
    remarks.append(f"Figures are drawn from {start / rate:.6g} to {stop / rate:.6g} s of {sound.frames / rate:.6g} s.")
    return int(stop - start)


def _honest_length(data: bytes, remarks: list[str]) -> bytes:
    """A WAV whose head states another length than the file has, with the length that is there."""
    if data[:4] != b"RIFF" or data[8:12] != b"WAVE":
        return data
    place = 12
    while place + 8 <= len(data):
        size = struct.unpack("<I", data[place + 4 : place + 8])[0]
        if data[place : place + 4] == b"data":
            there = len(data) - place - 8
            if size > there or (
                size < there - 1
                and data[place + 8 + size + size % 2 :][:4]
                not in (
                    b"LIST",
                    b"id3 ",
                    b"bext",
                    b"fact",
                    b"cue ",
                    b"PEAK",
                    b"smpl",
                    b"JUNK",
                    b"iXML",
                    b"fmt ",
                    b"ID3 ",
                )
            ):
                remarks.append(f"Its head says {size} bytes of samples; {there} are there, and taken.")
            else:
                return data
            return data[: place + 4] + struct.pack("<I", there) + data[place + 8 :]
        place += 8 + size + size % 2
    return data
