"""What makes pictures, examples and packages from the source; not part of the program."""
