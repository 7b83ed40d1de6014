"""Show me the wiring: drawn for the current build, a wire at a time told what flows in it."""
