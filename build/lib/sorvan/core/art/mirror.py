"""The mirror image of a drawing."""

from __future__ import annotations

from sorvan.core.geometry import Affine
from sorvan.core.model.art import Art, Layer


def mirror_image(art: Art) -> Art:
    """The drawing the other way round, mirrored in the upright line through its middle: it covers the same box."""
    left, _, right, _ = art.bounds
    return Art(bounds=art.bounds, nodes=(Layer(matrix=Affine.mirror((left + right) / 2), nodes=art.nodes),))
