"""Which style each element has: attributes, style sheets and inheritance (CSS Cascade, SVG 1.1 §6)."""

from __future__ import annotations

from collections.abc import Mapping
from xml.etree.ElementTree import Element

import cssselect2
import tinycss2
import tinycss2.color4

from sorvan.interchange.svg.guard import local

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
}
"""Properties that are not inherited, with their initial values."""

Style = Mapping[str, str]


class Sheets:
    """The style sheets of one drawing, and the cascade over them."""

    def __init__(self, root: Element) -> None:
        self._matcher = cssselect2.Matcher()
        self._declared: dict[Element, list[tuple[tuple[int, int, int], int, dict[str, tuple[str, bool]]]]] = {}
        any_rules = False
        for element in root.iter():
            if local(element) == "style" and (element.get("type") or "text/css") == "text/css":
                any_rules = self._read("".join(element.itertext())) or any_rules
        if any_rules:
            for wrapper in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree():
                found = [(spec, order, declared) for spec, order, _, declared in self._matcher.match(wrapper)]
                if found:
                    self._declared[wrapper.etree_element] = found

    def _read(self, text: str) -> bool:
        added = False
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
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

    def style(self, element: Element, inherited: Style) -> dict[str, str]:
        """The element's style: inherited values with its own cascade on top."""
        own = {k: v for k, v in element.attrib.items() if k in INITIAL or (k in OWN and k != "transform")}
        important: dict[str, str] = {}
        for _, _, declared in sorted(self._declared.get(element, ()), key=lambda entry: entry[:2]):
            _lay(own, important, declared)
        if element.get("style"):
            _lay(own, important, _declarations(tinycss2.parse_component_value_list(element.get("style"))))
        own.update(important)
        result = {k: v for k, v in inherited.items() if k in INITIAL} | OWN
        for key, value in own.items():
            value = value.strip()
            if value == "inherit":
                value = inherited.get(key, INITIAL.get(key, OWN.get(key, "")))
            elif value in ("initial", "unset"):
                value = INITIAL.get(key, OWN.get(key, ""))
            if value:
                result[key] = value
        return result


def _declarations(tokens: object) -> dict[str, tuple[str, bool]]:
    found: dict[str, tuple[str, bool]] = {}
    for d in tinycss2.parse_blocks_contents(tokens, skip_comments=True, skip_whitespace=True):
        if d.type == "declaration":
            found[d.lower_name] = (tinycss2.serialize(d.value).strip(), d.important)
    return found


def _lay(own: dict[str, str], important: dict[str, str], declared: Mapping[str, tuple[str, bool]]) -> None:
    for key, (value, strong) in declared.items():
        if key == "marker":
            for end in ("marker-start", "marker-mid", "marker-end"):
                (important if strong else own)[end] = value
        elif key in INITIAL or key in OWN:
            (important if strong else own)[key] = value


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
