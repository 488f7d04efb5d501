"""Affine transforms, singly and in blocks over frames."""

from sorvan.core.geometry.affine import IDENTITY, MIRROR, Affine, Place, Point, near
from sorvan.core.geometry.blocks import (
    Complexes,
    Floats,
    column,
    compose_blocks,
    inverse_block,
    moved,
    place_in,
    placed_block,
)

__all__ = [
    "IDENTITY",
    "MIRROR",
    "Affine",
    "Complexes",
    "Floats",
    "Place",
    "Point",
    "column",
    "compose_blocks",
    "inverse_block",
    "moved",
    "near",
    "place_in",
    "placed_block",
]
