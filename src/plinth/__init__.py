"""Plinth: plan, bring up, measure and record home-built solid-state audio amplifiers."""

__version__ = "0.1.0"
