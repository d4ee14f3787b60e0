"""People and animals as solids, and the outlines of anything."""
