"""Which picture formats are taken in, told by their first bytes, and whether such a file is all there."""

# What a decoder is asked for, by how a file begins. A drawing that is run as a program (SVG) is none of them.
_PNG, _JPEG, _GIF, _BMP = b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", (b"GIF87a", b"GIF89a"), b"BM"
_TIFF = (b"II*\x00", b"MM\x00*")
NAMES = "JPEG, PNG, WebP, GIF, BMP or TIFF"


def picture_format(content: bytes) -> str:
    """The format of a picture by its content: ``jpeg``, ``png``, ...; empty for anything else."""
    if content.startswith(_JPEG):
        return "jpeg"
    if content.startswith(_PNG):
        return "png"
    if content[:4] == b"RIFF" and content[8:12] == b"WEBP":
        return "webp"
    if content.startswith(_GIF):
        return "gif"
    if content.startswith(_TIFF):
        return "tiff"
    return "bmp" if content.startswith(_BMP) else ""


def cut_short(content: bytes) -> bool:
    """Whether a file of a known format ends before its picture does, as after a torn copy."""
    match picture_format(content):
        case "jpeg":
            # Cameras may write more behind the end of the picture.
            return b"\xff\xd9" not in content[_scan_of(content) :]
        case "png":
            return b"IEND" not in content[-64:] and b"IEND\xaeB`\x82" not in content
        case "gif":
            return b"\x3b" not in content[-16:]
        case "webp":
            return len(content) < int.from_bytes(content[4:8], "little") + 8
        case "bmp":
            return len(content) < 14 or len(content) < int.from_bytes(content[2:6], "little")
        case _:
            return False


def _scan_of(content: bytes) -> int:
    """Where the picture itself begins in a JPEG: what stands before may hold a small whole picture of its own."""
    at = 2
    while at + 4 <= len(content) and content[at] == 0xFF and content[at + 1] != 0xDA:
        at += 2 + int.from_bytes(content[at + 2 : at + 4], "big")
    return at


def bytes_each(content: bytes) -> int:
    """Bytes that a point of the picture takes once decoded: twice as many where a PNG has 16 bits a colour."""
    deep = picture_format(content) == "png" and len(content) > 24 and content[24] > 8
    return 8 if deep else 4
