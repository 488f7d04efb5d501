"""Posing: what a pulling hand means."""
