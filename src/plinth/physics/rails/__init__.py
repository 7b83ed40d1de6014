"""Rails: rectifier, reservoir and load in steady state and over time."""
