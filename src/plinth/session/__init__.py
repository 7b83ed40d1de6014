"""The open workshop without a window: plan, records, power and predictions, which announce what changes."""
