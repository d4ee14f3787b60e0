"""The six stations, one folder each."""
