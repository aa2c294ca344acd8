"""Pages that stand alone and print well: made from templates, with their style inside."""
