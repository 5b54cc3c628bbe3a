"""sqlite3 with plain SQL, and originals kept by their SHA-256."""
