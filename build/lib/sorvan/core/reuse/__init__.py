"""Rigs and motions used again: on other art, by other puppets, in other productions."""
