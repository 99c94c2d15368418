"""PostgreSQL: plain migrations, named queries, and the one place where a world's log is appended to."""
