"""Actions, with their words and keys."""
