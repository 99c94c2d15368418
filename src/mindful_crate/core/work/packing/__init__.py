"""Packing: what was picked goes into cartons, is weighed and closed; or leaves as it came."""
