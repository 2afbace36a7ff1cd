"""The link to a running game, in the window."""
