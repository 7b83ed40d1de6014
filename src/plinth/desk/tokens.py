"""Colours by what they mean, in both themes. Contrast and separation are held by tests."""

from typing import Final

LIGHT: Final = {
    "paper": "#F4F2EC", "sheet": "#FFFFFF", "sunk": "#EAE7DF", "rule": "#D5D0C4",
    "ink": "#1B1F24", "ink2": "#535A62",
    "plus": "#A52A14", "minus": "#184878", "zero": "#81868C",
    "pred": "#1A7550", "pred_fill": "#CFE6DA", "claim": "#5231A8",
    "close": "#8F5200", "close_fill": "#F4DDAF", "over": "#A8123A", "over_fill": "#F5C9D3",
    "glow": "#F2B84B",
}  # fmt: skip
DARK: Final = {
    "paper": "#14171A", "sheet": "#1C2024", "sunk": "#101315", "rule": "#363C42",
    "ink": "#F0EDE6", "ink2": "#B3B8BD",
    "plus": "#EE7A45", "minus": "#55AFF5", "zero": "#80868C",
    "pred": "#4FDD9B", "pred_fill": "#173D2D", "claim": "#DDA4D0",
    "close": "#F0B24A", "close_fill": "#4A3611", "over": "#FF7A95", "over_fill": "#53202D",
    "glow": "#FFC65C",
}  # fmt: skip
GROUNDS: Final = ("paper", "sheet", "sunk")
TEXT: Final = ("ink", "ink2", "plus", "minus", "pred", "claim", "close", "over")
