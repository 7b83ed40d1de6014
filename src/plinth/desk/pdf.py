"""Pages for paper: HTML as a PDF, its plots as pictures that can be told apart without colour."""

import re
from typing import Literal

from PySide6.QtCore import QBuffer, QByteArray, QMarginsF, QSizeF, QUrl
from PySide6.QtGui import QColor, QImage, QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument, QTransform
from PySide6.QtSvg import QSvgRenderer

_SVG = re.compile(r'<svg [^>]*?viewBox="0 0 (?P<width>[\d.]+) (?P<height>[\d.]+)".*?</svg>', re.DOTALL)
_CLASS = re.compile(r'class="(?P<names>[^"]+)"')
# Ink on paper, in black and white as well: what is colour on a screen is a dash or a grey here.
_STROKES = {
    "line": 'fill="none" stroke="#1B1F24" stroke-width="1.8"',
    "grid": 'stroke="#D5D0C4" stroke-width="1"',
    "disc": 'fill="#1B1F24"',
}
_LINES = {
    "plus": 'stroke="#A52A14"', "minus": 'stroke="#184878" stroke-dasharray="9 3"',
    "pred": 'stroke="#1A7550" stroke-width="4" stroke-opacity="0.45"', "ink": 'stroke="#1B1F24"',
    "ink2": 'stroke="#535A62" stroke-dasharray="3 3"',
}  # fmt: skip
_TEXTS = {"plus": "#A52A14", "minus": "#184878", "pred": "#1A7550", "ink": "#1B1F24"}
# Dots an inch of a plot on paper, and those that a page is laid out in.
_PRINTED, _LAID = 300, 96
# As wide and as high as a page is between its margins, in the dots that it is laid out in.
_WIDEST, _HIGHEST = 520.0, 740.0
# A drawing wider than this is turned.
_TURNED_FROM = 900.0
Paper = Literal["A4", "letter"]


def pdf_of(html: str, margin_mm: float = 15.0, paper: Paper = "A4") -> bytes:
    """A page of HTML as the bytes of a PDF file."""
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(held)
    size = QPageSize.PageSizeId.A4 if paper == "A4" else QPageSize.PageSizeId.Letter
    writer.setPageSize(QPageSize(size))
    writer.setPageMargins(QMarginsF(margin_mm, margin_mm, margin_mm, margin_mm), QPageLayout.Unit.Millimeter)
    document = document_of(html)
    document.print_(writer)
    return bytes(held.data().data())


def document_of(html: str) -> QTextDocument:
    """The page as a document to be printed, its plots drawn."""
    document = QTextDocument()
    plots = 0

    def drawn(match: re.Match[str]) -> str:
        nonlocal plots
        plots += 1
        size = QSizeF(float(match["width"]), float(match["height"]))
        name = f"plot{plots}.png"
        picture = picture_of(match[0], size)
        if size.width() > _TURNED_FROM:
            # Along the page its words are half as large again.
            picture, size = picture.transformed(QTransform().rotate(90.0)), size.transposed()
        document.addResource(QTextDocument.ResourceType.ImageResource, QUrl(name), picture)
        share = min(1.0, _WIDEST / size.width(), _HIGHEST / size.height())
        return f'<img src="{name}" width="{share * size.width():.0f}" height="{share * size.height():.0f}">'

    document.setHtml(_SVG.sub(drawn, html))
    return document


def picture_of(svg: str, size: QSizeF) -> QImage:
    """One plot of a page, whose classes are styled by the page, as a picture for paper."""
    scale = _PRINTED / _LAID
    image = QImage(round(size.width() * scale), round(size.height() * scale), QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    styled = svg
    if "xmlns=" not in svg:
        # A plot of a page is dressed by the page's style; a drawing with a name space of its own is dressed already.
        styled = _CLASS.sub(_as_strokes, svg).replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
        styled = styled.replace("<text ", '<text font-size="11" ')
    renderer = QSvgRenderer(QByteArray(styled.encode()))
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    return image


def _as_strokes(match: re.Match[str]) -> str:
    """Attributes in the place of the classes that a page's style would give them."""
    names = match["names"].split()
    if "line" in names:
        own = [_LINES[name] for name in names if name in _LINES]
        base = _STROKES["line"]
        for attribute in re.findall(r"([\w-]+)=", " ".join(own)):
            base = re.sub(rf'\s?\b{attribute}="[^"]*"', "", base)
        return " ".join([base, *own])
    for name in names:
        if name in _STROKES:
            return _STROKES[name]
    colour = next((_TEXTS[name] for name in names if name in _TEXTS), "#535A62")
    return f'fill="{colour}"'
