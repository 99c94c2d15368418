"""Picking: what waves keep for orders becomes tasks, and is brought to the first station after it."""
