"""The host: its orders, and the messages between it and the floor."""
