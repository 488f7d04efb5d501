"""The letters of the live socket."""
