"""Leaving: staging, loading and shipping; what left is told to the host, and may be taken back."""
