"""Django's backend for PostgreSQL, with the limit that values beside a query have."""
