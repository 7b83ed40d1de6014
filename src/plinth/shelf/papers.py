"""Papers kept with parts: how large they may be, and the words in them by which they are found."""

MOST_BYTES, MOST_NOTE, MOST_WORDS = 10_000_000, 2000, 20_000
# Beyond this share of signs that no text has, it is a picture or a page description.
_MOST_ODD = 0.02


def readable_words(content: bytes) -> str:
    """The words of a text (UTF-8, else Latin 1); empty of a picture or a PDF, whose words are drawn."""
    if content.startswith(b"%PDF") or b"\0" in content[:4096]:
        return ""
    try:
        text = content.decode("utf-8")
    except UnicodeDecodeError:
        text = content.decode("latin-1")
    odd = sum(not (sign.isprintable() or sign.isspace()) for sign in text[:4096])
    if odd > _MOST_ODD * max(len(text[:4096]), 1):
        return ""
    return " ".join(text.split())[:MOST_WORDS]


def size_words(size: int) -> str:
    """A size as it is said: ``40 kB``, ``1.2 MB``."""
    return f"{size / 1e6:.1f} MB" if size >= 1_000_000 else f"{max(size / 1e3, 0.1):.3g} kB"
