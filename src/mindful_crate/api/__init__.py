"""The API: one module a resource, typed requests and answers, problems as ``application/problem+json``."""
