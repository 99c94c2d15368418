"""Mindful Crate: a rulebook for a warehouse, run and proved before anybody depends on it."""

__version__ = "0.5.0"
