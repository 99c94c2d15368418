"""Care of stock: reservations and blocks."""
