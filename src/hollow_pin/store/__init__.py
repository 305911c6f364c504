"""Everything that is kept, in one SQLite file, by plain SQL."""
