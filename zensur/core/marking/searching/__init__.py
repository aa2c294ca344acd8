"""Searches for the few mistakes behind the lost marks: differences as edits, and which of them what was lost needs."""
