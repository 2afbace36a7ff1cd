"""Studies and traces as files."""
