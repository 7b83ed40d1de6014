"""A picture made small: decoded and scaled off the window's thread, so that one of 40 megapixels freezes nothing."""

from PySide6.QtCore import QBuffer, QByteArray, QSize, Qt
from PySide6.QtGui import QImage, QImageReader, QImageWriter, QPainter

from plinth.desk.photos.picture_formats import NAMES, bytes_each, cut_short, picture_format

# The longer side of the scaled copy, and what a picture may have at all.
SCALED_SIDE, MOST_PIXELS = 1600, 120_000_000
_QUALITY = 85


class PictureError(ValueError):
    """What was given is no picture that can be kept; in words."""


def scaled_copy(content: bytes, name: str) -> bytes:
    """A JPEG no longer than ``SCALED_SIDE`` px, turned as the camera was held. Raises PictureError."""
    form = picture_format(content)
    if not form:
        raise PictureError(f"{name}: found no picture, expected {NAMES}")
    if cut_short(content):
        raise PictureError(f"{name}: found only a part of the picture. Copy it from the camera once more")
    held = QBuffer()
    held.setData(QByteArray(content))
    held.open(QBuffer.OpenModeFlag.ReadOnly)
    # The limit of Qt itself is below what cameras make; ours is asked for beforehand.
    QImageReader.setAllocationLimit(0)
    reader = QImageReader(held, QByteArray(form.encode()))
    reader.setAutoTransform(True)
    size = reader.size()
    if not reader.canRead() or size.isEmpty():
        raise PictureError(f"{name}: found no picture, expected {NAMES}")
    maximum = MOST_PIXELS * 4 // bytes_each(content)
    if size.width() * size.height() > maximum:
        raise PictureError(
            f"{name}: found {size.width()} x {size.height()} points, expected {maximum // 1_000_000} million at "
            "most: make it smaller first"
        )
    if max(size.width(), size.height()) > SCALED_SIDE:
        # JPEG is then decoded small at once.
        reader.setScaledSize(size.scaled(QSize(SCALED_SIDE, SCALED_SIDE), Qt.AspectRatioMode.KeepAspectRatio))
    picture = reader.read()
    if picture.isNull():
        raise PictureError(f"{name}: the picture is broken ({reader.errorString()}). Copy it from the camera once more")
    return _jpeg(picture, name)


def image_content(picture: QImage) -> bytes:
    """A picture of the clipboard as the bytes of a PNG file."""
    return _written(picture, "png", -1)


def _jpeg(picture: QImage, name: str) -> bytes:
    # What is see-through would be black.
    flat = QImage(picture.size(), QImage.Format.Format_RGB32)
    flat.fill(Qt.GlobalColor.white)
    painter = QPainter(flat)
    painter.drawImage(0, 0, picture)
    painter.end()
    made = _written(flat, "jpg", _QUALITY)
    if not made:
        raise PictureError(f"{name}: a scaled copy could not be made")
    return made


def _written(picture: QImage, form: str, quality: int) -> bytes:
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QImageWriter(held, QByteArray(form.encode()))
    writer.setQuality(quality)
    writer.write(picture)
    return bytes(held.data().data())
