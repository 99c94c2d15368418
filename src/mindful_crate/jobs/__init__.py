"""Long work: what takes longer than a request should, done by workers on any machine that reaches the database."""
