"""Instruments that read by themselves: command maps, links, and the processes in which all talk with them runs.

Nothing here knows of builds: a kind of instrument, what is asked of it, where it is reached.
"""
