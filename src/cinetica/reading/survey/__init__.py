"""What thousands of runs say together: figures over a range, windows of a press, reach, weights."""
