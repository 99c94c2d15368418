"""Sorting: what was fetched for several orders at once is brought to each order's own place."""
