"""The line to a running game, in the window."""
