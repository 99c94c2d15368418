"""What the rulebook says, in words: of each chapter its sentences, its tables of words, and what its words may say instead."""
