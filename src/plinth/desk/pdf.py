"""Pages for paper: HTML as a PDF."""

from PySide6.QtCore import QBuffer, QMarginsF
from PySide6.QtGui import QPageLayout, QPageSize, QPdfWriter, QTextDocument


def pdf_of(html: str, margin_mm: float = 15.0) -> bytes:
    """A page of HTML as the bytes of a PDF file, on A4."""
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(held)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(margin_mm, margin_mm, margin_mm, margin_mm), QPageLayout.Unit.Millimeter)
    document = QTextDocument()
    document.setHtml(html)
    document.print_(writer)
    return bytes(held.data().data())
