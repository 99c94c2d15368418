"""How far it is on foot."""
