"""Benchmarks: what is fast, measured as ratios within one run."""
