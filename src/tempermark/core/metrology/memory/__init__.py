"""What an element's earlier surveys say of it today, and whether something new has happened."""
