"""Parsing SVG that may be meant to do harm."""

from __future__ import annotations

import base64
import binascii
import re
import struct
from collections import Counter
from functools import lru_cache
from urllib.parse import unquote_to_bytes
from xml.etree.ElementTree import Element, ParseError, TreeBuilder

import defusedxml
from defusedxml.ElementTree import DefusedXMLParser

from sorvan.core.errors import Refusal
from sorvan.interchange import limits
from sorvan.interchange.pictures import JPEG, PNG, check_jpeg, check_size, check_webp, png_header
from sorvan.interchange.svg.vocabulary import ELEMENTS

SVG = "{http://www.w3.org/2000/svg}"
XLINK = "{http://www.w3.org/1999/xlink}"
_URL = re.compile(r"url\(\s*['\"]?\s*([^'\")\s]*)", re.IGNORECASE)
_POINTED = re.compile(r"url\(\s*['\"]?#([^'\")]+?)['\"]?\s*\)")
_COMMENT = re.compile(r"/\*.*?\*/", re.DOTALL)
_NAMESPACE = re.compile(r"@namespace[^;{}]*;", re.IGNORECASE)
_FONT_FACE = re.compile(r"@font-face\s*\{[^{}]*\}", re.IGNORECASE)
_FONT_IMPORT = re.compile(r"@import[^;{}]*?(?:font|family)[^;{}]*;", re.IGNORECASE)
_IMPORT = re.compile(r"@import", re.IGNORECASE)
_PLACE_OF_ENTITY = re.compile(rb"&([A-Za-z_:][\w:.-]{0,200});")
LONGEST_ENTITY = 64 * 1024
"""Letters that one entity may stand for."""
ENTITIES = 512
"""Entities that a drawing may name."""
_MOVING = frozenset(("animate", "animateTransform", "animateMotion", "animateColor", "set"))
STILL = "what moves by itself in it comes in as it lies still, without its motion."


class _Builder(TreeBuilder):
    """Builds the tree and gives up as soon as it is too deep or too large."""

    def __init__(self, where: str) -> None:
        super().__init__()
        self.where, self.depth, self.count = where, 0, 0

    def start(self, tag: str, attrs: dict[str, str]) -> Element:  # type: ignore[override]
        self.depth += 1
        self.count += 1
        if self.depth > limits.DEPTH:
            raise Refusal(
                f"The drawing's groups are nested more than {limits.DEPTH} deep.",
                where=self.where,
                remedy="Ungroup some levels in the drawing program and save it again.",
                kind="too-deep",
            )
        if self.count > limits.ELEMENTS:
            raise Refusal(
                f"The drawing has more than {limits.ELEMENTS:,} elements.",
                where=self.where,
                remedy="Split it into several files.",
                kind="too-large",
            )
        return super().start(tag, attrs)

    def end(self, tag: str) -> Element:
        self.depth -= 1
        return super().end(tag)


def parse(data: bytes, where: str, notes: list[str] | None = None) -> Element:
    """The tree of a well-formed SVG that stands by itself; `notes` are told what of it was left out. Raises `Refusal`
    for any other."""
    parser = DefusedXMLParser(target=_Builder(where), forbid_dtd=False, forbid_entities=False, forbid_external=True)
    named = _Entities(data, where)

    def default(_element: str, attribute: str, _kind: str, value: str | None, _needed: bool) -> None:
        # Each element would take it, however long it is.
        if value is not None:
            raise Refusal(
                f"The drawing's document type gives “{attribute[:40]}” to elements that do not have it.",
                where=where,
                remedy="Save it as plain SVG, without a document type of its own.",
                kind="unsafe",
            )

    parser.parser.AttlistDeclHandler = default
    parser.parser.EntityDeclHandler = named.declared
    try:
        parser.feed(data)
        root: Element = parser.close()
    except defusedxml.DefusedXmlException:
        raise named.unsafe() from None
    except ParseError as error:
        line, column = error.position
        raise Refusal(
            f"The drawing is not well-formed XML: it goes wrong at line {line}, column {column + 1}.",
            where=where,
            remedy="It may have broken off while being copied; export it again.",
            kind="damaged",
        ) from None
    except (ValueError, LookupError):
        raise Refusal(
            "The drawing's text encoding can't be read.", where=where, remedy="Save it as UTF-8.", kind="damaged"
        ) from None
    if root.tag not in (SVG + "svg", "svg"):
        raise Refusal(
            "The file is XML, but not an SVG drawing.", where=where, remedy="Choose an SVG file.", kind="wrong-type"
        )
    _check_elements(root, where, notes if notes is not None else [])
    return root


class _Entities:
    """The entities that a drawing names. Plain words that stand for a namespace or a style are harmless; what stands for
    others, for files, or for more than can be told apart, is not."""

    def __init__(self, data: bytes, where: str) -> None:
        self.data, self.where = data, where
        self.uses: Counter[bytes] | None = None
        self.count = self.length = 0

    def unsafe(self) -> Refusal:
        return Refusal(
            "The drawing defines entities of its own, which can be used to blow a file up or to read others.",
            where=self.where,
            remedy="Save it as plain SVG, without a document type of its own.",
            kind="unsafe",
        )

    def declared(
        self,
        name: str,
        is_parameter: bool,
        value: str | None,
        _base: str | None,
        _system: str | None,
        _public: str | None,
        _notation: str | None,
    ) -> None:
        self.count += 1
        if is_parameter or value is None or "&" in value or "%" in value or "<" in value:
            raise self.unsafe()
        if self.uses is None:
            self.uses = Counter(_PLACE_OF_ENTITY.findall(self.data))
        self.length += len(value) * (1 + self.uses[name.encode()])
        if self.count > ENTITIES or len(value) > LONGEST_ENTITY or self.length > limits.BYTES // 4:
            raise self.unsafe()


def local(element: Element) -> str:
    """The element's name if it is an SVG element, else an empty string."""
    return _local(element.tag)


@lru_cache(maxsize=4096)
def _local(tag: object) -> str:
    if not isinstance(tag, str):
        return ""
    if tag.startswith(SVG):
        return tag[len(SVG) :]
    return "" if tag.startswith("{") else tag


def href(element: Element) -> str:
    """What the element refers to, old or new spelling."""
    return (element.get("href") or element.get(XLINK + "href") or "").strip()


def pointed_at(element: Element) -> set[str]:
    """The ids that an element refers to."""
    link = href(element)
    found = {link[1:]} if link.startswith("#") else set()
    for text in (*element.attrib.values(), element.text or "" if local(element) == "style" else ""):
        if "url(" in text:
            found.update(_POINTED.findall(text))
    return found


def _check_elements(root: Element, where: str, notes: list[str]) -> None:
    used: set[Element] | None = None
    for element in root.iter():
        name = local(element)
        texts: list[str] = []
        acts = name == "script"
        links: list[str] = []
        for key, value in element.attrib.items():
            kind = _kind_of(key)
            acts = acts or kind == "acts" or (":" in value and value.strip().lower().startswith("javascript:"))
            # Where a link leads to is no matter of the drawing's, since nobody follows it.
            if kind == "fetches" or (kind == "refers" and name != "a"):
                links.append(value.strip())
            if "(" in value and "url(" in value.lower():
                texts.append(value)
        if acts:
            raise Refusal(
                "The drawing contains a script.",
                where=where,
                remedy="Save it as plain SVG without scripts; nothing was brought in.",
                kind="unsafe",
            )
        if name in _MOVING:
            _note(notes, f"{where}: {STILL}")
        if name == "style":
            texts.append(_own_rules("".join(element.itertext()), notes, where))
        outside = [u for text in texts for u in _URL.findall(text) if u and not u.startswith(("#", "data:image/"))]
        if any(_IMPORT.search(text) for text in texts):
            outside.append("@import")
        for link in links:
            if link.lower().startswith("data:image/"):
                _check_embedded(link, where)
            elif link and not link.startswith("#"):
                outside.append(link)
        if outside and used is None:
            used = _used(root)
        if outside and name != "style" and element not in (used or ()):
            _note(notes, f"{where}: it refers to something outside itself that it does not show: “{outside[0][:80]}”.")
        elif outside:
            raise Refusal(
                f"The drawing refers to something outside itself: “{outside[0][:80]}”.",
                where=where,
                remedy="Embed the pictures in the drawing, or remove the reference, and save it again.",
                kind="unsafe",
            )


def _own_rules(text: str, notes: list[str], where: str) -> str:
    """A style sheet without the fonts that it brings along or fetches, and without what only names namespaces."""
    text = _NAMESPACE.sub("", _COMMENT.sub("", text))
    if "@keyframes" in text:
        _note(notes, f"{where}: {STILL}")
    text, faces = _FONT_FACE.subn("", text)
    text, fetched = _FONT_IMPORT.subn("", text)
    if faces or fetched:
        _note(notes, f"{where}: fonts of its own are not used; text is shown in those that are here.")
    return text


def _note(notes: list[str], note: str) -> None:
    if note not in notes:
        notes.append(note)


def _used(root: Element) -> set[Element]:
    """What is shown, or pointed at by anything; and what is in it. Where nothing leads, nothing is fetched."""
    by_id = {e.get("id", ""): e for e in reversed(list(root.iter())) if e.get("id")}
    found: set[Element] = set()
    waiting = [root]
    while waiting:
        element = waiting.pop()
        if element in found:
            continue
        found.add(element)
        waiting.extend(by_id[id] for id in pointed_at(element) if id in by_id)
        name = local(element)
        # What is defined is shown where it is pointed at only; styles hold wherever they stand.
        waiting.extend(c for c in element if local(c) == "style" or (name != "defs" and local(c) in ELEMENTS))
    return found


@lru_cache(maxsize=4096)
def _kind_of(key: str) -> str:
    """Whether an attribute acts, refers as one of SVG does, or fetches in whatever namespace; empty if none of them."""
    if key[:2].lower() == "on":
        return "acts"
    if key in ("href", XLINK + "href"):
        return "refers"
    return "fetches" if key.rpartition("}")[2].lower() == "href" else ""


def data_of(link: str) -> bytes:
    """The bytes in a `data:` address (RFC 2397); none, if it is damaged."""
    head, _, body = link.partition(",")
    try:
        return base64.b64decode(body, validate=False) if head.lower().endswith(";base64") else unquote_to_bytes(body)
    except (binascii.Error, ValueError):
        return b""


def _check_embedded(link: str, where: str) -> None:
    head, data = link.partition(",")[0], data_of(link)
    place = f"{where}, an embedded picture"
    if head.lower().startswith("data:image/svg"):
        raise Refusal(
            "The drawing has another drawing embedded as data.",
            where=where,
            remedy="Paste it in as shapes instead.",
            kind="unsafe",
        )
    if data.startswith(PNG):
        png_header(data, place)
    elif data.startswith(JPEG):
        check_jpeg(data, place)
    elif data.startswith(b"RIFF") and data[8:12] == b"WEBP":
        check_webp(data, place)
    elif data.startswith(b"GIF8") and len(data) > 10:
        width, height = struct.unpack("<HH", data[6:10])
        check_size(width, height, place)
    else:
        raise Refusal(
            "An embedded picture can't be read.", where=where, remedy="Embed it as PNG or JPEG.", kind="damaged"
        )
