"""What happens: a world is an opening state and the log of everything since."""
