"""The lab check: whether a lab can be sat, and what its marks are worth."""
