"""The page Survey: the effect of each number over its range, press windows, and reach."""
