"""How the application is served: who asks, and in which thread it is answered."""
