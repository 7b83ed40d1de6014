"""Runs: test after test read by instruments alone, until a hand is wanted or it must not go on."""
