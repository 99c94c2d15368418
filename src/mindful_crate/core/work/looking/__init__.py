"""Looking things up."""
