"""Which style each element has: attributes, style sheets and inheritance (CSS Cascade, SVG 1.1 §6)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import Any
from xml.etree.ElementTree import Element

import cssselect2
import tinycss2
import tinycss2.color4

from sorvan.interchange.svg.guard import local
from sorvan.interchange.svg.outline import ROOT_SIZE, length
from sorvan.interchange.svg.vocabulary import ATTRIBUTES, GEOMETRY, PLACING

INITIAL: dict[str, str] = {
    "color": "black",
    "fill": "black",
    "fill-opacity": "1",
    "fill-rule": "nonzero",
    "clip-rule": "nonzero",
    "stroke": "none",
    "stroke-width": "1",
    "stroke-opacity": "1",
    "stroke-linecap": "butt",
    "stroke-linejoin": "miter",
    "stroke-miterlimit": "4",
    "stroke-dasharray": "none",
    "stroke-dashoffset": "0",
    "visibility": "visible",
    "paint-order": "normal",
    "marker": "none",
    "marker-start": "none",
    "marker-mid": "none",
    "marker-end": "none",
    "font-size": "16",
    ROOT_SIZE: "16",
    "font-family": "",
    "font-style": "normal",
    "font-weight": "normal",
    "font-variant": "normal",
    "font-stretch": "normal",
    "letter-spacing": "normal",
    "word-spacing": "normal",
    "text-anchor": "start",
    "dominant-baseline": "auto",
    "writing-mode": "lr-tb",
    "direction": "ltr",
    "color-interpolation": "sRGB",
    "color-interpolation-filters": "linearRGB",
    "image-rendering": "auto",
    "shape-rendering": "auto",
    "text-rendering": "auto",
}
"""Properties that are inherited, with their initial values."""
OWN: dict[str, str] = {
    "opacity": "1",
    "display": "inline",
    "clip-path": "none",
    "mask": "none",
    "filter": "none",
    "mask-type": "luminance",
    "mix-blend-mode": "normal",
    "isolation": "auto",
    "vector-effect": "none",
    "stop-color": "black",
    "stop-opacity": "1",
    "transform": "",
    "transform-origin": "0 0",
    "transform-box": "view-box",
    "overflow": "hidden",
}
"""Properties that are not inherited, with their initial values."""
PAINTS = frozenset(("fill", "stroke", "color", "stop-color"))
_WIDE = frozenset(("inherit", "initial", "unset", "revert"))
_SEEN = frozenset(("", "all", "screen", "only all", "only screen", "not print"))
"""Media queries that a screen answers."""
MOST_STEPS = 32
"""Custom properties that one value may go through."""

Style = Mapping[str, str]
INHERITED = tuple(INITIAL)
FIRST: Style = {**INITIAL, **OWN}
"""The style that the whole drawing begins with."""
_COUNTS = frozenset(INITIAL) | frozenset(OWN) | GEOMETRY
_WRITTEN = (frozenset(ATTRIBUTES) | frozenset(OWN) | GEOMETRY) - {"id"}


class Sheets:
    """The style sheets of one drawing, and the cascade over them."""

    def __init__(self, root: Element) -> None:
        self._matcher = cssselect2.Matcher()
        self._declared: dict[Element, list[tuple[tuple[int, int, int], int, dict[str, tuple[str, bool]]]]] = {}
        any_rules = False
        self._namespaces: dict[str | None, str] = {}
        self.parents = {child: parent for parent in root.iter() for child in parent}
        self._computed: dict[Element, Style] = {}
        self._bases: dict[int, tuple[Style, Style]] = {}
        for element in root.iter():
            if local(element) == "style" and (element.get("type") or "text/css") == "text/css":
                any_rules = self._read("".join(element.itertext())) or any_rules
        if any_rules:
            for wrapper in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree():
                found = [(spec, order, declared) for spec, order, _, declared in self._matcher.match(wrapper)]
                if found:
                    self._declared[wrapper.etree_element] = found

    def _read(self, text: str) -> bool:
        return self._take(tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True))

    def _take(self, rules: Iterable[Any]) -> bool:
        added = False
        for rule in rules:
            if rule.type == "at-rule" and rule.lower_at_keyword == "namespace":
                words = [token.value for token in rule.prelude if token.type in ("ident", "string", "url")]
                self._namespaces[words[0] if len(words) > 1 else None] = words[-1] if words else ""
            if rule.type == "at-rule" and rule.lower_at_keyword == "media" and rule.content is not None:
                asked = tinycss2.serialize(rule.prelude).lower().split(",")
                if any(" ".join(query.split()) in _SEEN for query in asked):
                    inner = tinycss2.parse_rule_list(rule.content, skip_comments=True, skip_whitespace=True)
                    added = self._take(inner) or added
            if rule.type != "qualified-rule":
                continue
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude, self._namespaces)
            except cssselect2.SelectorError:
                continue
            declared = _declarations(rule.content)
            for selector in selectors:
                self._matcher.add_selector(selector, declared)
                added = True
        return added

    def computed(self, element: Element) -> Style:
        """The style of an element where it stands in the drawing."""
        found = self._computed.get(element)
        if found is None:
            above = self.parents.get(element)
            inherited: Style = FIRST if above is None else self.computed(above)
            found = self._computed[element] = self.style(element, inherited)
        return found

    def style(self, element: Element, inherited: Style) -> Style:
        """The element's style: inherited values with its own cascade on top. Elements of which nothing is said share
        one."""
        own = self._cascaded(element, _COUNTS)
        base = self._base(inherited)
        if not own and element in self.parents:
            return base
        result = dict(base)
        result |= {k: v for k, v in own.items() if k.startswith("--")}
        for key, value in own.items():
            if not key.startswith("--") and (meant := self._meant(key, value, result, inherited)):
                result[key] = meant
        if "font-size" in own or element not in self.parents:
            self._size(element, result, inherited)
        return result

    def written(self, element: Element) -> dict[str, str]:
        """What style sheets and its own style say of an element, as it can be written on a copy that stands alone."""
        found: dict[str, str] = {}
        at = self.parents.get(element)
        inherited: Style = FIRST if at is None else self.computed(at)
        for key, value in self._cascaded(element, _WRITTEN).items():
            if key.startswith("--") or (element.get(key) == value and "var(" not in value and value not in _WIDE):
                continue
            if value == "inherit" and key not in INITIAL and key not in OWN:
                found[key] = value
            elif meant := self._meant(key, value, self.computed(element), inherited):
                found[key] = meant
        return found

    def _cascaded(self, element: Element, counts: frozenset[str]) -> dict[str, str]:
        """What holds of all that is said of an element, as far as it `counts`."""
        own: dict[str, str] = {}
        important: dict[str, str] = {}
        for key, value in element.attrib.items():
            if key in counts and key not in PLACING and _valid(key, value := value.strip()):
                own[key] = value
        if element not in self._declared and "style" not in element.attrib:
            return own
        for _, _, declared in sorted(self._declared.get(element, ()), key=lambda entry: entry[:2]):
            _lay(own, important, declared, counts)
        if told := element.get("style"):
            _lay(own, important, _in_style(told), counts)
        own.update(important)
        return own

    def _base(self, inherited: Style) -> Style:
        """The style of an element of which nothing is said, where this is inherited."""
        known = self._bases.get(id(inherited))
        if known is None:
            base = {k: v for k, v in inherited.items() if k in INITIAL or k.startswith("--")} | OWN
            # Kept with what it was made from, so that no other has its id meanwhile.
            known = self._bases[id(inherited)] = (inherited, base)
            self._bases[id(base)] = (base, base)
        return known[1]

    def _meant(self, key: str, value: str, known: Style, inherited: Style) -> str:
        """What a value stands for; empty if for nothing."""
        if "var(" in value:
            # What it stands for may be no value after all: then it is as if nothing were said.
            stands_for = _resolved(value, known)
            if stands_for is None or not _valid(key, stands_for):
                return ""
            value = stands_for
        if value == "inherit":
            return inherited.get(key, INITIAL.get(key, OWN.get(key, "")))
        if value in ("unset", "revert"):
            return inherited.get(key, "") if key in INITIAL else OWN.get(key, "")
        if value == "initial":
            return INITIAL.get(key, OWN.get(key, ""))
        return value

    def _size(self, element: Element, result: dict[str, str], inherited: Style) -> None:
        """Let the font size be a number of user units; that of the whole drawing is what a rem is."""
        above = float(inherited.get("font-size", "16"))
        units = (above, float(inherited.get(ROOT_SIZE, "16")))
        size = length(result["font-size"], above, above, units)
        result["font-size"] = f"{size:.9g}" if size >= 0 else inherited.get("font-size", "16")
        if element not in self.parents:
            result[ROOT_SIZE] = result["font-size"]


@lru_cache(maxsize=4096)
def _in_style(told: str) -> dict[str, tuple[str, bool]]:
    return _declarations(tinycss2.parse_component_value_list(told))


def _declarations(tokens: object) -> dict[str, tuple[str, bool]]:
    found: dict[str, tuple[str, bool]] = {}
    for d in tinycss2.parse_blocks_contents(tokens, skip_comments=True, skip_whitespace=True):
        if d.type == "declaration":
            name, value = d.name if d.name.startswith("--") else d.lower_name, tinycss2.serialize(d.value).strip()
            if _valid(name, value) or name not in found:
                found[name] = (value, d.important)
    return found


def _lay(
    own: dict[str, str], important: dict[str, str], declared: Mapping[str, tuple[str, bool]], counts: frozenset[str]
) -> None:
    for key, (value, strong) in declared.items():
        on = important if strong else own
        if key == "marker":
            for end in ("marker-start", "marker-mid", "marker-end"):
                on[end] = value
        elif key == "font":
            on.update(_font(value))
        elif key == "d":
            if drawn := _PATH.fullmatch(value):
                on[key] = drawn.group(2)
        elif (key in counts or key.startswith("--")) and _valid(key, value):
            # What is no value counts for nothing, and what was said before holds (CSS Syntax 3, §9).
            on[key] = value


_FONT = re.compile(r"^((?:[a-z0-9-]+\s+)*?)([\d.]+(?:[a-z]+|%))(?:\s*/\s*\S+)?\s+(.+)$", re.IGNORECASE | re.DOTALL)


def _font(value: str) -> dict[str, str]:
    """What the shorthand `font` says (CSS Fonts 4, §2.7); nothing, if it is not one."""
    found = _FONT.match(value.strip())
    if found is None:
        return {}
    words = found.group(1).lower().split()
    told = {"font-style": "normal", "font-weight": "normal", "font-variant": "normal", "font-stretch": "normal"}
    for word in words:
        if word in ("italic", "oblique"):
            told["font-style"] = word
        elif word in ("bold", "bolder", "lighter") or word.isdigit():
            told["font-weight"] = word
        elif word == "small-caps":
            told["font-variant"] = word
        elif word.endswith(("condensed", "expanded")):
            told["font-stretch"] = word
    return {**told, "font-size": found.group(2), "font-family": found.group(3).strip()}


_PATH = re.compile(r"path\(\s*(['\"])(.*)\1\s*\)", re.DOTALL)


@lru_cache(maxsize=16384)
def _valid(key: str, value: str) -> bool:
    """Whether a property can have this value, as far as it matters here."""
    if key not in PAINTS or value in _WIDE or "var(" in value:
        return bool(value)
    if key in ("fill", "stroke") and (value == "none" or value.startswith(("url(", "context-"))):
        return True
    return colour(value, {"color": "black"}, 1.0) is not None


def _resolved(value: str, known: Mapping[str, str]) -> str | None:
    """A value with what custom properties stand for in their places (CSS Variables 1, §3); None if one stands for
    nothing."""
    for _ in range(MOST_STEPS):
        start = value.find("var(")
        if start < 0:
            return value.strip()
        depth, end = 1, start + 4
        while end < len(value) and depth:
            depth += {"(": 1, ")": -1}.get(value[end], 0)
            end += 1
        name, comma, fallback = value[start + 4 : end - 1].partition(",")
        found = known.get(name.strip())
        if found is None:
            if not comma:
                return None
            found = fallback
        value = f"{value[:start]}{found.strip()}{value[end:]}"
        if len(value) > 10_000:
            return None
    return None


@lru_cache(maxsize=4096)
def number(text: str, default: float = 1.0) -> float:
    """A number or percentage held to 0…1."""
    try:
        value = float(text[:-1]) / 100 if text.endswith("%") else float(text)
    except ValueError:
        return default
    return min(1.0, max(0.0, value))


def colour(text: str, style: Style, opacity: float) -> str | None:
    """`#rrggbbaa` of a CSS colour with an opacity on top; None if it is no colour."""
    if text.strip().lower() == "currentcolor":
        text = style.get("color", "black")
    return _colour(text, opacity)


_HEX = re.compile(r"#(?:[0-9a-fA-F]{3}){1,2}")


@lru_cache(maxsize=16384)
def _colour(text: str, opacity: float) -> str | None:
    if _HEX.fullmatch(text):
        digits = text[1:].lower() if len(text) == 7 else "".join(digit * 2 for digit in text[1:].lower())
        return f"#{digits}{round(min(1.0, max(0.0, opacity)) * 255):02x}"
    parsed = tinycss2.color4.parse_color(text)
    if parsed is None or isinstance(parsed, str):
        return None
    try:
        rgb = parsed.to("srgb").coordinates
    except (NotImplementedError, ValueError, TypeError, ArithmeticError):
        # A colour of a space that is not known here is no colour (CSS Color 4, §4).
        return None
    channels = [*rgb, parsed.alpha * opacity]
    return "#" + "".join(f"{round(min(1.0, max(0.0, c or 0.0)) * 255):02x}" for c in channels)
