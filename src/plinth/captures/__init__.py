"""What a scope, a sound card or a digitiser recorded, and the figures that can be drawn from it."""
