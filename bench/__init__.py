"""Benchmarks: figures, never tests."""
