"""Open formats in and out: the catalogue as CSV, the rulebook as JSON, rehearsals as YAML or JSON, JUnit XML."""
