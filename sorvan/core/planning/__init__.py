"""Motions planned from numbers: gaits, and mouths and faces to the words of a line."""
