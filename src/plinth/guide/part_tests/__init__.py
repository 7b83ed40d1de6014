"""Parts measured before they are soldered in: which, judged at once, and matched into sets."""
