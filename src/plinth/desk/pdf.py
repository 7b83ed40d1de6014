"""Pages for paper: HTML as a PDF."""

from PySide6.QtCore import QBuffer, QMarginsF
from PySide6.QtGui import QPageLayout, QPageSize, QPdfWriter, QTextDocument


def pdf_of(html: str) -> bytes:
    """A page of HTML as the bytes of a PDF file, on A4."""
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(held)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(15, 15, 15, 15), QPageLayout.Unit.Millimeter)
    document = QTextDocument()
    document.setHtml(html)
    document.print_(writer)
    return bytes(held.data().data())
