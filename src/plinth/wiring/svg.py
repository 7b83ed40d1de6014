"""A wiring as SVG: the same boxes and wires as on the screen, each wire with what flows in it as its title."""

import textwrap
from html import escape

from plinth.wiring.drawing import Wire, Wiring, WiringBox

NOTE_LINE, NOTE_CHARS = 18.0, 160
# On paper: dark and light enough to be told apart without colour too, with dashes.
STROKES: dict[str, tuple[str, float, str]] = {
    "live": ("#6b3f1d", 2.4, ""), "neutral": ("#27548a", 2.4, "8 3"), "earth": ("#2f7d3a", 2.4, "3 3"),
    "winding": ("#8a6a1a", 2.0, ""), "plus": ("#a8281c", 2.6, ""), "minus": ("#1c4f8a", 2.6, ""),
    "ground": ("#33373d", 2.0, "10 3"), "signal": ("#5b2fa0", 1.6, "2 3"), "output": ("#14171c", 2.4, ""),
    "battery": ("#a8281c", 3.0, ""),
}  # fmt: skip


# What conductors look like on paper, by the name of their colour; white is drawn as light as still can be seen.
CONDUCTORS = {
    "brown": "#6b3f1d", "blue": "#27548a", "black": "#14171c", "white": "#9aa0a8", "green-yellow": "#2f7d3a",
    "green or bare": "#2f7d3a", "green": "#2f7d3a",
}  # fmt: skip


def note_lines(notes: tuple[str, ...]) -> list[str]:
    """Notes broken into lines."""
    lines: list[str] = []
    for note in notes:
        lines += textwrap.wrap(note, NOTE_CHARS, subsequent_indent="   ")
    return lines


def svg_of(wiring: Wiring) -> str:
    """The whole drawing as an SVG document."""
    lines = note_lines(wiring.notes)
    height = wiring.height + 40.0 + NOTE_LINE * len(lines)
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wiring.width:g} {height:g}" '
        'font-family="sans-serif" font-size="12">'
    )
    parts = [
        head,
        f'<rect width="{wiring.width:g}" height="{height:g}" fill="#fff"/>',
        f'<text x="20" y="26" font-size="16" font-weight="bold">{escape(wiring.title)}</text>',
        *(_wire(wire) for wire in wiring.wires),
        *(_box(box) for box in wiring.boxes),
    ]
    for words, wire in wiring.legend:
        x, y = wire.points[1]
        parts += [_wire(wire), f'<text x="{x + 8:g}" y="{y + 4:g}" font-size="11">{escape(words)}</text>']
    for k, line in enumerate(lines):
        y = wiring.height + 24.0 + NOTE_LINE * k
        parts.append(f'<text x="20" y="{y:g}" xml:space="preserve">{escape(line)}</text>')
    return "\n".join([*parts, "</svg>", ""])


def _wire(wire: Wire) -> str:
    colour, width, dash = STROKES[wire.kind]
    colour = CONDUCTORS.get(wire.colour, colour)
    points = " ".join(f"{x:g},{y:g}" for x, y in wire.points)
    dashes = f' stroke-dasharray="{dash}"' if dash else ""
    words = f"{wire.words}. {wire.flow}" + (f" {wire.colour}." if wire.colour else "")
    warning = f" {wire.warning}" if wire.warning else ""
    return (
        f'<polyline points="{points}" fill="none" stroke="{colour}" stroke-width="{width:g}"{dashes}>'
        f"<title>{escape(words + warning)}</title></polyline>"
    )


def _box(box: WiringBox) -> str:
    stroke = ' stroke-dasharray="4 3"' if box.missing else ""
    at = f'x="{box.x:g}" y="{box.y:g}" width="{box.w:g}" height="{box.h:g}"'
    parts = [f'<rect {at} rx="3" fill="#fff" stroke="#14171c"{stroke}/>']
    top = box.y + box.h / 2.0 - 7.0 * (len(box.words) - 1) + 4.0
    for k, line in enumerate(box.words):
        weight = ' font-weight="bold"' if k == 0 else ""
        parts.append(
            f'<text x="{box.x + box.w / 2.0:g}" y="{top + 14.0 * k:g}" text-anchor="middle" font-size="11"{weight}>'
            f"{escape(line)}</text>"
        )
    for name, (x, y) in box.shown_pins():
        parts.append(f'<text x="{x:g}" y="{y:g}" font-size="9" fill="#555">{escape(name)}</text>')
    return "\n".join(parts)
