"""Bending: meshes, weights, and sheets pulled about by handles."""
