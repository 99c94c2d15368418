"""Which orders are worked together, and how a wave is split over carts and pickers."""
