"""Open formats in and out. Everything that comes in is hostile until parsed."""
