"""Photos of the work: taken in, scaled aside, shown in a strip, marked."""
