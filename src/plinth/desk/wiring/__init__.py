"""Show me the wiring: drawn for the build in hand, a wire at a time told what flows in it."""
