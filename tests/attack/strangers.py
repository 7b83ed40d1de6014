"""Pictures, sheets and listings made by strangers: cut, flipped, of false size; a sentence, or what is in them."""

import io
import random
import struct
import zlib
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray
from PySide6.QtGui import QImage, QImageWriter

from plinth.builds.modules import ClassABModule, ClassDModule
from plinth.builds.supply_parts import Reservoir, Transformer
from plinth.desk.photos.scaling import PictureError, scaled_copy
from plinth.processes.confined import ConfinedError, run_confined
from plinth.shelf.listing.read import read_listing
from plinth.shelf.papers import pdf_words
from tests.attack.files import mutated
from tests.shelf.listing_texts import TEXTS

FORMS = ("png", "jpg", "bmp", "webp", "gif", "tiff")


def attack(_folder: Path, seed: int) -> str:
    pick = random.Random(seed)
    return pick.choice((_picture, _picture, _huge, _sheet, _listing))(pick)


def _picture(pick: random.Random) -> str:
    image = QImage(pick.choice((1, 17, 400)), pick.choice((1, 23, 300)), QImage.Format.Format_RGB32)
    image.fill(pick.randrange(2**24))
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    QImageWriter(held, QByteArray(pick.choice(FORMS).encode())).write(image)
    return _taken_in(mutated(bytes(held.data().data()), pick), "a picture")


def _huge(pick: random.Random) -> str:
    """A PNG whose head promises what its body does not hold."""
    size = pick.choice((1, 2**16, 2**31 - 1)), pick.choice((1, 30_000, 2**31 - 1))
    head = struct.pack(">IIBBBBB", *size, pick.choice((1, 8, 16)), pick.choice((0, 2, 3, 6)), 0, 0, 0)

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    body = zlib.compress(b"\0" * pick.choice((10, 1_000_000)))
    return _taken_in(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b""), "a PNG")


def _taken_in(content: bytes, what: str) -> str:
    try:
        made = run_confined(scaled_copy, content, "stranger", most_s=20.0)
    except (PictureError, ConfinedError) as error:
        return "" if str(error) else f"{what} was refused without a word"
    return "" if made.startswith(b"\xff\xd8") else f"{what} became no JPEG"


def _sheet(pick: random.Random) -> str:
    operators = b"0 0 m " * pick.choice((10, 5000, 300_000))
    stream = zlib.compress(b"BT /F1 12 Tf (ten volts) Tj ET " + operators)
    body = io.BytesIO()
    body.write(
        b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n"
    )
    body.write(b"3 0 obj<</Type/Page/Parent 2 0 R/Contents 4 0 R>>endobj\n")
    body.write(b"4 0 obj<</Filter/FlateDecode/Length %d>>stream\n%b\nendstream endobj\n" % (len(stream), stream))
    body.write(b"trailer<</Root 1 0 R>>\n%%EOF")
    content = body.getvalue() if pick.random() < 0.3 else mutated(body.getvalue(), pick)
    try:
        run_confined(pdf_words, content, most_s=5.0)
    except ConfinedError as error:
        return "" if str(error) else "a sheet was refused without a word"
    return ""


def _listing(pick: random.Random) -> str:
    kind, text, _ = pick.choice([one for texts in TEXTS.values() for one in texts])
    changed = mutated((text * pick.choice((1, 1, 50, 2000))).encode(), pick).decode("utf-8", "replace")
    for one in {kind, pick.choice((Transformer, Reservoir, ClassABModule, ClassDModule))}:
        for found in read_listing(changed, one).found:
            if not found.words:
                return f"{found.path} came from no words"
    return ""
