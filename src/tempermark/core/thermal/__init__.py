"""Heat through the stack: materials, conduction with moisture, dye, film, cooling."""
