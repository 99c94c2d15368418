"""Releasing orders: by their gates, into shipments, with stock reserved for them; and taking that back."""
