"""What a paper has otherwise than the nearest accepted one, as small edits; each undone is a repair."""
