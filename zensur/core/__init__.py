"""Pure computation: no interface, no database, no file or network access."""
