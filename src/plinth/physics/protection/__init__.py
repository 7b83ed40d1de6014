"""DC detectors and relay coils."""
