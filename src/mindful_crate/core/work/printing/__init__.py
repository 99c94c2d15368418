"""Labels: what is on them, which rules print them, on which printer; what waits while a printer does not print."""
