"""Reading and writing quantities as people type and read them."""
