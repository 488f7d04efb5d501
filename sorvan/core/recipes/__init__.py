"""Recipes, a file for each kind: what it writes, and what becomes of it where it is begun, scaled or carried over."""
