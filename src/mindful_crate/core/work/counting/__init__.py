"""Counting: sheets of what is to be counted, what was found, and what of it is taken into the books; stock corrected with a reason."""
