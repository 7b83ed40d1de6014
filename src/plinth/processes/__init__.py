"""Other processes: workers that take a share of what is computed, and one in which strangers' files are read."""
