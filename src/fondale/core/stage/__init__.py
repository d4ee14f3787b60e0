"""The scene as geometry: solids, places, contacts and rays."""
