"""The Stage station."""
