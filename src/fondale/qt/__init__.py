"""The window: all of Qt is known here alone."""
