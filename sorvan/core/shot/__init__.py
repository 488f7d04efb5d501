"""Shots evaluated: what the cast does when, how it is carried, copied and seen."""
