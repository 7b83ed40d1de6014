"""What leaves the workshop: one self-contained HTML page, and readings as CSV."""
