"""The page Compare: stage, lanes and strips over one time axis."""
