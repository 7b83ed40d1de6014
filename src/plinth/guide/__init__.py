"""First power: steps, what stands where, what may be done under power. Schools of it in ``schools``."""
