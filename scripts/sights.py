"""The pictures of docs/screenshots as three kinds of colour blindness see them: ``python -m scripts.sights OUT``."""

import os
import sys
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QImage

SHOTS = Path(__file__).parents[1] / "docs" / "screenshots"
Array = NDArray[np.float64]

# Full dichromacy in linear sRGB (Machado, Oliveira and Fernandes, IEEE TVCG 15 (2009), severity 1).
SIGHTS: dict[str, Array] = {
    "protan": np.array(
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
    ),
    "deutan": np.array(
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]
    ),
    "tritan": np.array(
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]
    ),
}


def to_linear(srgb: Array) -> Array:
    """Linear light of sRGB from 0 to 1 (IEC 61966-2-1)."""
    return np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)


def to_srgb(linear: Array) -> Array:
    """The inverse; what lies outside is held at its edge."""
    held = np.clip(linear, 0.0, 1.0)
    return np.where(held <= 0.0031308, 12.92 * held, 1.055 * held ** (1.0 / 2.4) - 0.055)


def seen(pixels: Array, sight: str) -> Array:
    """Pixels (…, 3) of sRGB from 0 to 1 as that sight has them."""
    return to_srgb(to_linear(pixels) @ SIGHTS[sight].T)


def pixels_of(image: QImage) -> Array:
    """Height × width × 3, sRGB from 0 to 1."""
    plain = image.convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(plain.constBits(), np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return rows[:, : 3 * plain.width()].reshape(plain.height(), plain.width(), 3) / 255.0


def image_of(pixels: Array) -> QImage:
    """The inverse."""
    data = np.ascontiguousarray(np.round(255.0 * pixels).astype(np.uint8))
    height, width = data.shape[:2]
    return QImage(data.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()


def write_all(out: Path) -> list[Path]:
    """Every picture in every sight, below ``out``."""
    out.mkdir(parents=True, exist_ok=True)
    written = []
    for path in sorted(SHOTS.glob("*.png")):
        pixels = pixels_of(QImage(str(path)))
        for sight in SIGHTS:
            written.append(out / f"{path.stem}-{sight}.png")
            image_of(seen(pixels, sight)).save(str(written[-1]))
    return written


if __name__ == "__main__":
    sys.stdout.write("\n".join(map(str, write_all(Path(sys.argv[1])))) + "\n")
