"""Moves inside the site."""
