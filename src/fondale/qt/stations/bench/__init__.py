"""The Bench station."""
