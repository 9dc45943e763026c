"""Art from outside: read within bounds, drawn at any size, put on paper at 1:1."""
