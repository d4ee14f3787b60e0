"""Pure computation: no interface, no files, no clock."""
