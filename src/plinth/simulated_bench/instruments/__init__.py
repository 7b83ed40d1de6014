"""The instruments of the bench, a module each."""
