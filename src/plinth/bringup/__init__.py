"""First power in stages: steps with computed windows, and the gate between them."""
