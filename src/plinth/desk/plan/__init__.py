"""Plan: what if, plots, margins, the shelf."""
