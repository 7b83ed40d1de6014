"""A workshop, or one build of it, as one open archive: a zip of JSON, CSV, pictures and papers with their checksums."""
