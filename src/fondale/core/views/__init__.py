"""Who sees what from where."""
