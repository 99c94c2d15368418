"""Waves: released orders that are worked together: made, let go, held, changed, cancelled."""
