"""Tasks, whatever they are for."""
