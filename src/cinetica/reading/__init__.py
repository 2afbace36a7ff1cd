"""What is read from traces: measures, marks, alignment, sweeps and fits."""
