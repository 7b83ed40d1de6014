"""What was observed at the bench: readings, confirmations, overrides, and the conditions they were taken under."""
