"""Putting away."""
