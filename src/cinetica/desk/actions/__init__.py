"""What can be done, its words and keys."""
