"""Returns: what customers send back, judged, marked, and taken in."""
