"""Goods that come and need not be stored, because somebody waits for them."""
