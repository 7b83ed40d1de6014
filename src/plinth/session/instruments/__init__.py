"""Readings that instruments give: who is connected where, what a request needs of them, and runs that go on alone."""
