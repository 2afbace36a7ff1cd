"""The page Play: the character in the hand, with the same kernel and the same numbers as Compare."""
