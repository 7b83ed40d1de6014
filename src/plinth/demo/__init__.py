"""The demo: the workshop of a small touring puppet theatre. All makers, parts and figures are invented."""
