"""Marking papers: from stored files to stored results. Each part is imported by itself, so that none waits for all."""
