"""Marking: criteria, scores, and the few mistakes behind the lost marks. Each part is imported by itself."""
