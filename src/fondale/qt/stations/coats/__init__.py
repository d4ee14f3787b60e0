"""The Coats station."""
