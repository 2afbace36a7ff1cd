"""One small writer for each language."""
