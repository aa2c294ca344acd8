"""Makes papers: slips put into model answers, and made-up classes."""
