"""What a live world talks to."""
