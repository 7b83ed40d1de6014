"""A bench that is not there: instruments that speak SCPI on the loopback interface, wired to a simulated build.

Nothing of it is ever a measurement: what it gives is marked simulated by whoever reads it.
"""
