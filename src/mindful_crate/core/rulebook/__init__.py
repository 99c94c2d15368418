"""What is wanted: the rulebook, one module a chapter, with the sentences that say it."""
