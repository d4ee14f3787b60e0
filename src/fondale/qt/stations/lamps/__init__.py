"""The Lamps station."""
