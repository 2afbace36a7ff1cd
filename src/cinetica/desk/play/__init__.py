"""The page Play: a playable character, with the same kernel and numbers as Compare."""
