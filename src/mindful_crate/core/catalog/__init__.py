"""What is: sites, bins, items, partners, orders, and the opening state that freezes them."""
