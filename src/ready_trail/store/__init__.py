"""SQLite by plain SQL: jobs and their revisions; nothing is ever deleted."""
