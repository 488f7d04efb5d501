"""A text as it is spoken: numbers, abbreviations and signs spelled out, one word at a time."""

from __future__ import annotations

import re
from dataclasses import dataclass

from sorvan.core.late import late

numbers_in_words = late("num2words")

ABBREVIATIONS: dict[str, str] = {
    "mr": "mister", "mrs": "missus", "ms": "miz", "dr": "doctor", "st": "saint", "prof": "professor", "capt": "captain",
    "lt": "lieutenant", "sgt": "sergeant", "col": "colonel", "gen": "general", "rev": "reverend", "hon": "honorable",
    "jr": "junior", "sr": "senior", "no": "number", "nos": "numbers", "vs": "versus", "etc": "et cetera",
    "approx": "approximately", "dept": "department", "est": "established", "ave": "avenue", "rd": "road",
    "jan": "january", "feb": "february", "mar": "march", "apr": "april", "aug": "august", "sept": "september",
    "oct": "october", "nov": "november", "dec": "december", "eg": "for example", "ie": "that is",
    "km": "kilometers", "kg": "kilograms", "cm": "centimeters", "mph": "miles per hour", "ft": "feet", "min": "minutes",
    "am": "a m", "pm": "p m",
}  # fmt: skip
"""What is said for an abbreviation that ends in a full stop, by its letters."""
BARE = frozenset(("mr", "mrs", "ms", "dr", "vs", "etc", "km", "kg", "cm", "mph"))
"""Abbreviations that are known without their full stop."""
SIGNS = {"&": " and ", "%": " percent ", "+": " plus ", "=": " equals ", "@": " at ", "°": " degrees ", "#": " number "}
MONEY = {"$": ("dollar", "cent"), "£": ("pound", "penny"), "€": ("euro", "cent")}

_TOKEN = re.compile(
    r"(?P<money>[$£€]\s?\d+(?:,\d{3})*(?:\.\d+)?)|(?P<clock>\b\d{1,2}:\d{2}\b)|(?P<ordinal>\d+(?:st|nd|rd|th)\b)"
    r"|(?P<number>\d+(?:,\d{3})*(?:\.\d+)?)|(?P<letters>(?:[A-Za-z]\.){2,})|(?P<word>[^\W\d_]+(?:['’][^\W\d_]+)*['’]?\.?)",
    re.UNICODE,
)


@dataclass(frozen=True)
class SpokenWord:
    """One word as it is spoken, in small letters; `letters` where it is said letter by letter."""

    text: str
    letters: bool = False


def spoken(text: str) -> tuple[SpokenWord, ...]:
    """The words of an English text in the order they are spoken; punctuation is none of them."""
    for sign, said in SIGNS.items():
        text = text.replace(sign, said)
    shouted = text.upper() == text
    found: list[SpokenWord] = []
    for match in _TOKEN.finditer(text.replace("’", "'")):
        kind, token = match.lastgroup or "word", match.group()
        if kind == "letters":
            found += [SpokenWord(letter, True) for letter in token.lower() if letter != "."]
        elif kind == "word":
            found += _word(token, match.end() == len(text) or _ends(text[match.end() :]), shouted)
        else:
            found += [SpokenWord(w) for w in _words(_number(kind, token))]
    return tuple(found)


def _ends(rest: str) -> bool:
    """Whether a sentence may end here: nothing follows, or a capital letter after a space."""
    left = rest.lstrip()
    return not left or left[0].isupper()


def _word(token: str, at_end: bool, shouted: bool) -> list[SpokenWord]:
    stopped = token.endswith(".")
    bare = "".join(c for c in token.rstrip(".").strip("'").lower() if c.isalpha() or c == "'")
    if not bare:
        return []
    title = bare in ("mr", "mrs", "ms", "dr", "prof", "capt", "st", "sgt", "lt", "col", "gen", "rev")
    if bare in ABBREVIATIONS and (bare in BARE or (stopped and (title or not at_end))):
        return [SpokenWord(w) for w in ABBREVIATIONS[bare].split()]
    capital = token.rstrip(".").isupper() and not shouted and 1 < len(bare) <= 5
    if capital and not re.search(r"[aeiouy]", bare):
        return [SpokenWord(letter, True) for letter in bare]
    return [SpokenWord(bare)]


def _number(kind: str, token: str) -> str:
    if kind == "ordinal":
        return str(numbers_in_words.num2words(_whole(token[:-2]), to="ordinal"))
    if kind == "clock":
        hours, minutes = token.split(":")
        tail = "o'clock" if minutes == "00" else f"oh {_said(minutes)}" if minutes[0] == "0" else _said(minutes)
        return f"{_said(hours)} {tail}"
    if kind == "money":
        return _money(token)
    return _said(token)


def _said(token: str) -> str:
    plain = token.replace(",", "")
    if "." in plain:
        whole, part = plain.split(".")
        return f"{numbers_in_words.num2words(_whole(whole))} point {' '.join(numbers_in_words.num2words(int(d)) for d in part[:12])}"
    if len(token) == 4 and "," not in token and (1100 <= int(plain) <= 1999 or 2010 <= int(plain) <= 2099):
        return str(numbers_in_words.num2words(int(plain), to="year"))
    if len(plain) > 15:
        return " ".join(numbers_in_words.num2words(int(d)) for d in plain)
    return str(numbers_in_words.num2words(_whole(plain)))


def _whole(digits: str) -> int:
    return int(digits.replace(",", "")[:15])


def _money(token: str) -> str:
    unit, small = MONEY[token[0]]
    amount = token[1:].strip().replace(",", "")
    whole, _, part = amount.partition(".")
    said = f"{numbers_in_words.num2words(_whole(whole))} {unit}{'' if whole == '1' else 's'}"
    if part:
        cents = int(part[:2].ljust(2, "0"))
        plural = {"penny": "pence"}.get(small, small + "s")
        said += f" {numbers_in_words.num2words(cents)} {small if cents == 1 else plural}" if cents else ""
    return said


def _words(said: str) -> list[str]:
    return [w for w in re.split(r"[\s,-]+", said.lower()) if w]
