"""Cutting paper: SVG shapes with a soft shadow below and a light edge above."""

from __future__ import annotations

import math

INK, SHADOW = "#1d2b3c", "#14202e"


def cut(d: str, fill: str, edge: str = "#ffffff", lift: float = 3.0) -> str:
    """One shape cut from coloured paper; `lift` is how far its shadow falls, in units."""
    return (
        f'<path d="{d}" transform="translate({lift * 0.6:g} {lift:g})" fill="{SHADOW}" fill-opacity=".17"/>'
        f'<path d="{d}" fill="{fill}"/>'
        f'<path d="{d}" fill="none" stroke="{edge}" stroke-opacity=".22" stroke-width="1.6" stroke-linejoin="round"/>'
    )


def flat(d: str, fill: str, opacity: float = 1.0) -> str:
    """A shape printed on the paper below it."""
    return f'<path d="{d}" fill="{fill}"' + (f' fill-opacity="{opacity:g}"/>' if opacity < 1 else "/>")


def line(d: str, colour: str, width: float, opacity: float = 1.0) -> str:
    """A line drawn on the paper."""
    return (
        f'<path d="{d}" fill="none" stroke="{colour}" stroke-width="{width:g}" stroke-opacity="{opacity:g}" '
        'stroke-linecap="round" stroke-linejoin="round"/>'
    )


def dot(x: float, y: float, r: float, fill: str) -> str:
    """A round spot."""
    return f'<circle cx="{x:g}" cy="{y:g}" r="{r:g}" fill="{fill}"/>'


def limb(x1: float, y1: float, r1: float, x2: float, y2: float, r2: float) -> str:
    """Path data of a tapering strip with round ends, the way a paper limb overlaps the next."""
    along = math.hypot(x2 - x1, y2 - y1)
    nx, ny = -(y2 - y1) / along, (x2 - x1) / along
    return (
        f"M{x1 + nx * r1:.1f} {y1 + ny * r1:.1f}L{x2 + nx * r2:.1f} {y2 + ny * r2:.1f}"
        f"A{r2:g} {r2:g} 0 0 0 {x2 - nx * r2:.1f} {y2 - ny * r2:.1f}"
        f"L{x1 - nx * r1:.1f} {y1 - ny * r1:.1f}A{r1:g} {r1:g} 0 0 0 {x1 + nx * r1:.1f} {y1 + ny * r1:.1f}Z"
    )


def ring(x: float, y: float, rx: float, ry: float) -> str:
    """Path data of an ellipse."""
    return f"M{x - rx:g} {y:g}A{rx:g} {ry:g} 0 1 1 {x + rx:g} {y:g}A{rx:g} {ry:g} 0 1 1 {x - rx:g} {y:g}Z"


def piece(name: str, *parts: str) -> str:
    """A named group, which becomes a piece."""
    return f'<g id="{name}">{"".join(parts)}</g>'


def group(name: str, *pieces: str) -> str:
    """A named group of pieces."""
    return f'<g id="{name}">{"".join(pieces)}</g>'


def drawing(*parts: str, defs: str = "") -> bytes:
    """A whole drawing the size of the stage."""
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720" viewBox="0 0 1280 720">'
    return f"{head}<defs>{defs}</defs>{''.join(parts)}</svg>".encode()
