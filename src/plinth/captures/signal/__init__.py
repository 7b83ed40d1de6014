"""What is done to samples: lines fitted, densities, waves at the limit."""
