"""Measurements, as ratios within one run where they can be: `make bench` writes docs/benchmarks.md."""
