"""The frame around the stations: menu, playbill, prompt corner, footlights."""
