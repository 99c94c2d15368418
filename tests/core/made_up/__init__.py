"""A kind of work that does not exist, to try what a new one costs."""
