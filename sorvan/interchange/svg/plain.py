"""A copy of a drawing that holds nothing but drawing: what the rasteriser is given."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from xml.etree.ElementTree import Element

from sorvan.interchange.svg.guard import SVG, href, local

ELEMENTS = frozenset(
    [
        "svg",
        "g",
        "a",
        "switch",
        "defs",
        "symbol",
        "use",
        "path",
        "rect",
        "circle",
        "ellipse",
        "line",
        "polyline",
        "polygon",
        "text",
        "tspan",
        "textPath",
        "image",
        "linearGradient",
        "radialGradient",
        "stop",
        "pattern",
        "clipPath",
        "mask",
        "marker",
        "filter",
        "title",
        "desc",
        "feBlend",
        "feColorMatrix",
        "feComponentTransfer",
        "feComposite",
        "feConvolveMatrix",
        "feDiffuseLighting",
        "feDisplacementMap",
        "feDistantLight",
        "feDropShadow",
        "feFlood",
        "feFuncA",
        "feFuncB",
        "feFuncG",
        "feFuncR",
        "feGaussianBlur",
        "feImage",
        "feMerge",
        "feMergeNode",
        "feMorphology",
        "feOffset",
        "fePointLight",
        "feSpecularLighting",
        "feSpotLight",
        "feTile",
        "feTurbulence",
    ]
)
"""Elements of SVG 1.1 and Filter Effects that draw, or that others draw with."""
ATTRIBUTES = frozenset(
    [
        "id",
        "x",
        "y",
        "x1",
        "y1",
        "x2",
        "y2",
        "cx",
        "cy",
        "r",
        "rx",
        "ry",
        "fx",
        "fy",
        "fr",
        "d",
        "points",
        "width",
        "height",
        "viewBox",
        "preserveAspectRatio",
        "transform",
        "gradientTransform",
        "gradientUnits",
        "spreadMethod",
        "offset",
        "patternTransform",
        "patternUnits",
        "patternContentUnits",
        "clipPathUnits",
        "maskUnits",
        "maskContentUnits",
        "filterUnits",
        "primitiveUnits",
        "markerUnits",
        "markerWidth",
        "markerHeight",
        "refX",
        "refY",
        "orient",
        "dx",
        "dy",
        "rotate",
        "textLength",
        "lengthAdjust",
        "startOffset",
        "method",
        "spacing",
        "type",
        "version",
        "fill",
        "fill-opacity",
        "fill-rule",
        "stroke",
        "stroke-width",
        "stroke-opacity",
        "stroke-linecap",
        "stroke-linejoin",
        "stroke-miterlimit",
        "stroke-dasharray",
        "stroke-dashoffset",
        "color",
        "opacity",
        "display",
        "visibility",
        "overflow",
        "clip",
        "clip-path",
        "clip-rule",
        "mask",
        "filter",
        "marker",
        "marker-start",
        "marker-mid",
        "marker-end",
        "mix-blend-mode",
        "isolation",
        "paint-order",
        "vector-effect",
        "shape-rendering",
        "text-rendering",
        "image-rendering",
        "color-interpolation",
        "color-interpolation-filters",
        "stop-color",
        "stop-opacity",
        "flood-color",
        "flood-opacity",
        "lighting-color",
        "font-family",
        "font-size",
        "font-style",
        "font-weight",
        "font-variant",
        "font-stretch",
        "letter-spacing",
        "word-spacing",
        "text-anchor",
        "text-decoration",
        "dominant-baseline",
        "alignment-baseline",
        "baseline-shift",
        "writing-mode",
        "direction",
        "unicode-bidi",
        "in",
        "in2",
        "result",
        "stdDeviation",
        "edgeMode",
        "mode",
        "operator",
        "k1",
        "k2",
        "k3",
        "k4",
        "values",
        "order",
        "kernelMatrix",
        "divisor",
        "bias",
        "targetX",
        "targetY",
        "preserveAlpha",
        "kernelUnitLength",
        "surfaceScale",
        "diffuseConstant",
        "specularConstant",
        "specularExponent",
        "limitingConeAngle",
        "azimuth",
        "elevation",
        "z",
        "pointsAtX",
        "pointsAtY",
        "pointsAtZ",
        "scale",
        "xChannelSelector",
        "yChannelSelector",
        "radius",
        "baseFrequency",
        "numOctaves",
        "seed",
        "stitchTiles",
        "tableValues",
        "slope",
        "intercept",
        "amplitude",
        "exponent",
    ]
)
SPACE = "{http://www.w3.org/XML/1998/namespace}space"


GEOMETRY = frozenset(("d", "x", "y", "width", "height", "cx", "cy", "r", "rx", "ry", "transform"))
"""What a style says that the rasteriser reads from attributes only."""


Styles = Callable[[Element], Mapping[str, str]]


def unstyled(_: Element) -> Mapping[str, str]:
    """No style but what attributes say."""
    return {}


def plain(element: Element, style_of: Styles = unstyled, empty: bool = False) -> Element:
    """The element with what in it draws (with nothing, if `empty`), and with the style that it is told to have written
    on it. References are kept only to the drawing itself and to data; no other name, in any namespace, is carried over."""
    kept = {k: v for k, v in element.attrib.items() if k in ATTRIBUTES or k == SPACE}
    style = style_of(element)
    kept.update((key, value) for key, value in style.items() if key in GEOMETRY)
    if words := ";".join(f"{key}:{value}" for key, value in style.items() if key not in GEOMETRY):
        kept["style"] = words
    link = href(element)
    if link.startswith("#") or (local(element) == "image" and link.lower().startswith("data:image/")):
        kept["href"] = link
    copy = Element(SVG + local(element), kept)
    if empty:
        return copy
    copy.text, copy.tail = element.text, element.tail
    for child in element:
        if local(child) in ELEMENTS:
            copy.append(plain(child, style_of))
        elif child.tail and child.tail.strip():
            # Text between elements belongs to what is around it.
            if len(copy):
                copy[-1].tail = (copy[-1].tail or "") + child.tail
            else:
                copy.text = (copy.text or "") + child.tail
    return copy
