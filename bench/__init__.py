"""Repeatable figures, ours beside a baseline, in one run: `bin/bench`."""
