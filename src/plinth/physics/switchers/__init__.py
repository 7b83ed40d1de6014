"""Switch-mode supplies: the mains side of a switcher, a battery converter."""
