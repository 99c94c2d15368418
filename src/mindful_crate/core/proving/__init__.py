"""Proof before anybody depends on it: findings, rehearsals, and what differs."""
