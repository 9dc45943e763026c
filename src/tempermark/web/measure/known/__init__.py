"""Elements that are known from earlier surveys, and verdicts that stay open."""
