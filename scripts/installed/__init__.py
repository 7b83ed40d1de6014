"""What an installed Plinth has beside the program: menu entry, file type, icons, man pages, completions."""
