"""What is wrong or doubtful in a rulebook, found without running it, with the place and what to do."""
