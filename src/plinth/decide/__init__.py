"""Which of these is better, is it a difference at all, what was changed: versions, builds and listings side by side."""
