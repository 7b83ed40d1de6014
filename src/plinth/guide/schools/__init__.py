"""Schools of first power, a module each: its steps, and beside it the windows they are judged by."""
