"""The Diary station."""
