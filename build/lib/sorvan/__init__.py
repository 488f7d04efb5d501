"""Sorvan: pose rigged paper puppets over time, from artwork to a finished shot."""
