"""Receiving goods."""
