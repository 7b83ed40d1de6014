"""How this build is wired: boxes, pins and wires with what flows in each, drawn for it and not by anybody's hand."""
