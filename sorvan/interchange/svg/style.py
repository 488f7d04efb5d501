"""Which style each element has: attributes, style sheets and inheritance (CSS Cascade, SVG 1.1 §6)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Any
from xml.etree.ElementTree import Element

import cssselect2
import tinycss2
import tinycss2.color4

from sorvan.interchange.svg.guard import local
from sorvan.interchange.svg.outline import ROOT_SIZE, length

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
}
OWN: dict[str, str] = {
    "opacity": "1",
    "display": "inline",
    "clip-path": "none",
    "mask": "none",
    "filter": "none",
    "mix-blend-mode": "normal",
    "vector-effect": "none",
    "stop-color": "black",
    "stop-opacity": "1",
    "transform": "",
    "transform-origin": "0 0",
    "transform-box": "view-box",
    "overflow": "hidden",
}
"""Properties that are not inherited, with their initial values."""
GEOMETRY = frozenset(("d", "x", "y", "width", "height", "cx", "cy", "r", "rx", "ry"))
"""Properties that say where a shape is; they have no value unless a style sheet gives them one (SVG 2 §8.2)."""
PAINTS = frozenset(("fill", "stroke", "color", "stop-color"))
_WIDE = frozenset(("inherit", "initial", "unset", "revert"))
_SEEN = frozenset(("", "all", "screen", "only all", "only screen", "not print"))
"""Media queries that a screen answers."""
MOST_STEPS = 32
"""Custom properties that one value may go through."""

Style = Mapping[str, str]


class Sheets:
    """The style sheets of one drawing, and the cascade over them."""

    def __init__(self, root: Element) -> None:
        self._matcher = cssselect2.Matcher()
        self._declared: dict[Element, list[tuple[tuple[int, int, int], int, dict[str, tuple[str, bool]]]]] = {}
        any_rules = False
        self._parents = {child: parent for parent in root.iter() for child in parent}
        self._computed: dict[Element, dict[str, str]] = {}
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
            if rule.type == "at-rule" and rule.lower_at_keyword == "media" and rule.content is not None:
                asked = tinycss2.serialize(rule.prelude).lower().split(",")
                if any(" ".join(query.split()) in _SEEN for query in asked):
                    inner = tinycss2.parse_rule_list(rule.content, skip_comments=True, skip_whitespace=True)
                    added = self._take(inner) or added
            if rule.type != "qualified-rule":
                continue
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude)
            except cssselect2.SelectorError:
                continue
            declared = _declarations(rule.content)
            for selector in selectors:
                self._matcher.add_selector(selector, declared)
                added = True
        return added

    def computed(self, element: Element) -> dict[str, str]:
        """The style of an element where it stands in the drawing."""
        found = self._computed.get(element)
        if found is None:
            above = self._parents.get(element)
            inherited: Style = {**INITIAL, **OWN} if above is None else self.computed(above)
            found = self._computed[element] = self.style(element, inherited)
        return found

    def style(self, element: Element, inherited: Style) -> dict[str, str]:
        """The element's style: inherited values with its own cascade on top."""
        own: dict[str, str] = {}
        own_attributes = {k: (v.strip(), False) for k, v in element.attrib.items() if k in INITIAL or k in OWN}
        own_attributes.pop("transform", None)
        important: dict[str, str] = {}
        _lay(own, important, own_attributes)
        for _, _, declared in sorted(self._declared.get(element, ()), key=lambda entry: entry[:2]):
            _lay(own, important, declared)
        if element.get("style"):
            _lay(own, important, _declarations(tinycss2.parse_component_value_list(element.get("style"))))
        own.update(important)
        result = {k: v for k, v in inherited.items() if k in INITIAL or k.startswith("--")} | OWN
        result |= {k: v for k, v in own.items() if k.startswith("--")}
        for key, value in own.items():
            if key.startswith("--"):
                continue
            if "var(" in value:
                # What it stands for may be no value after all: then it is as if nothing were said.
                stands_for = _resolved(value, result)
                if stands_for is None or not _valid(key, stands_for):
                    continue
                value = stands_for
            if value == "inherit":
                value = inherited.get(key, INITIAL.get(key, OWN.get(key, "")))
            elif value in ("unset", "revert"):
                value = inherited.get(key, "") if key in INITIAL else OWN.get(key, "")
            elif value == "initial":
                value = INITIAL.get(key, OWN.get(key, ""))
            if value:
                result[key] = value
        self._size(element, result, inherited)
        return result

    def _size(self, element: Element, result: dict[str, str], inherited: Style) -> None:
        """Let the font size be a number of user units; that of the whole drawing is what a rem is."""
        above = float(inherited.get("font-size", "16"))
        units = (above, float(inherited.get(ROOT_SIZE, "16")))
        size = length(result["font-size"], above, above, units)
        result["font-size"] = f"{size:.9g}" if size >= 0 else inherited.get("font-size", "16")
        if element not in self._parents:
            result[ROOT_SIZE] = result["font-size"]


def _declarations(tokens: object) -> dict[str, tuple[str, bool]]:
    found: dict[str, tuple[str, bool]] = {}
    for d in tinycss2.parse_blocks_contents(tokens, skip_comments=True, skip_whitespace=True):
        if d.type == "declaration":
            name, value = d.name if d.name.startswith("--") else d.lower_name, tinycss2.serialize(d.value).strip()
            if _valid(name, value) or name not in found:
                found[name] = (value, d.important)
    return found


def _lay(own: dict[str, str], important: dict[str, str], declared: Mapping[str, tuple[str, bool]]) -> None:
    for key, (value, strong) in declared.items():
        if key == "marker":
            for end in ("marker-start", "marker-mid", "marker-end"):
                (important if strong else own)[end] = value
        elif key == "d":
            if drawn := _PATH.fullmatch(value):
                (important if strong else own)[key] = drawn.group(2)
        elif (key in INITIAL or key in OWN or key in GEOMETRY or key.startswith("--")) and _valid(key, value):
            # What is no value counts for nothing, and what was said before holds (CSS Syntax 3, §9).
            (important if strong else own)[key] = value


_PATH = re.compile(r"path\(\s*(['\"])(.*)\1\s*\)", re.DOTALL)


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


def number(text: str, default: float = 1.0) -> float:
    """A number or percentage held to 0…1."""
    try:
        value = float(text[:-1]) / 100 if text.endswith("%") else float(text)
    except ValueError:
        return default
    return min(1.0, max(0.0, value))


def colour(text: str, style: Style, opacity: float) -> str | None:
    """`#rrggbbaa` of a CSS colour with an opacity on top; None if it is no colour."""
    parsed = tinycss2.color4.parse_color(text)
    if parsed == "currentcolor":
        parsed = tinycss2.color4.parse_color(style.get("color", "black"))
    if parsed is None or isinstance(parsed, str):
        return None
    try:
        rgb = parsed.to("srgb").coordinates
    except (NotImplementedError, ValueError, TypeError, ArithmeticError):
        # A colour of a space that is not known here is no colour (CSS Color 4, §4).
        return None
    channels = [*rgb, parsed.alpha * opacity]
    return "#" + "".join(f"{round(min(1.0, max(0.0, c or 0.0)) * 255):02x}" for c in channels)
