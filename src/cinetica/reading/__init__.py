"""What is read off traces: measures, marks and, later, alignment, sweeps and fits."""
