"""Which cartons goods go into, and where in them."""
