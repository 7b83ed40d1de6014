"""The rest of the invented shelf, kind by kind: tables of what makers say, with the small faults that listings have."""
