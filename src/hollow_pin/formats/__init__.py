"""Files: read and written, without decisions."""
