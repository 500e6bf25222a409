"""Benchmarks: each prints its figures as ratios within one run; nothing here is a test."""
