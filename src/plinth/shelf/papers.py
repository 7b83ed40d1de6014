"""Papers kept with parts: how large they may be, and the words in them by which they are found."""

import contextlib
import io
import logging
import unicodedata

MOST_BYTES, MOST_NOTE, MOST_WORDS = 10_000_000, 2000, 20_000
# Beyond this share of signs that no text has, it is a picture or a page description.
_MOST_ODD = 0.02


def readable_words(content: bytes) -> str:
    """The words of a text (UTF-8, else Latin 1); empty of a picture, or a PDF (``pdf_words``)."""
    if is_pdf(content) or b"\0" in content[:4096]:
        return ""
    try:
        text = content.decode("utf-8")
    except UnicodeDecodeError:
        text = content.decode("latin-1")
    odd = sum(not (sign.isprintable() or sign.isspace()) for sign in text[:4096])
    if odd > _MOST_ODD * max(len(text[:4096]), 1):
        return ""
    return " ".join(text.split())[:MOST_WORDS]


def is_pdf(content: bytes) -> bool:
    """Whether this is a sheet whose words have to be looked for (``pdf_words``: seconds, for a manual)."""
    return content.startswith(b"%PDF")


def pdf_words(content: bytes) -> str:
    """The words on the pages of a PDF, as far as they can be read; empty of scanned or locked ones."""
    # Slow to import, and wanted by few.
    import pypdf

    # It says of every slip of a sheet that it read on.
    logging.getLogger("pypdf").setLevel(logging.CRITICAL)
    pages: list[str] = []
    length = 0
    # A broken sheet makes its reader fail in any way there is: it is found by what could be read up to there.
    with contextlib.suppress(Exception):
        for page in pypdf.PdfReader(io.BytesIO(content)).pages:
            if length >= MOST_WORDS:
                break
            # Two letters drawn as one (ﬁ, ﬀ) are two letters for whoever searches.
            pages.append(" ".join(unicodedata.normalize("NFKC", page.extract_text()).split()))
            length += len(pages[-1]) + 1
    return " ".join(pages)[:MOST_WORDS]


def size_words(size: int) -> str:
    """A size as it is said: ``40 kB``, ``1.2 MB``."""
    return f"{size / 1e6:.1f} MB" if size >= 1_000_000 else f"{max(size / 1e3, 0.1):.3g} kB"
