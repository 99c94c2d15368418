"""Shelves are filled from reserve: for orders that wait, below the least, or when the office says so."""
