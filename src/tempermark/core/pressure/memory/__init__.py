"""What a platen's earlier pressure maps say of it today, and whether something new has happened."""
