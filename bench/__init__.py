"""Benchmarks. Each prints a ratio against a reference measured in the same run."""
