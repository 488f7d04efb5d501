"""Frames, seconds, and how a value gets from one key to the next."""
