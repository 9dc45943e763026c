"""What is printed and how: art as it is kept, and the settings of printer, paper and inks."""
