"""The catalogue of slips: how each is recognised, and what is said of it."""
