"""The page Survey: what each number does over its range, which frames forgive, how far a tune can go."""
