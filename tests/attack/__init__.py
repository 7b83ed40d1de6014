"""Attacks on what must never be lost, never hang and never end in a traceback; each kind in a module of its own.

A kind is a function ``attack(folder, seed) -> str``: one round, all of it drawn from ``seed``; what fell in a
sentence, or an empty text. ``python -m tests.attack MINUTES SEED`` runs rounds of all kinds until the time is over.
"""
