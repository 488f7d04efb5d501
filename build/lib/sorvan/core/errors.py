"""How the core says no."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError


class Refusal(Exception):
    """A request that cannot be carried out, told in words a user can act on.

    `what` says what is wrong, `where` names the thing it is wrong with, and `remedy` says
    what to do. Nothing has changed when a refusal is raised.
    """

    def __init__(self, what: str, *, where: str = "", remedy: str = "", kind: str = "refused") -> None:
        super().__init__(what)
        self.what = what
        self.where = where
        self.remedy = remedy
        self.kind = kind

    def sentence(self) -> str:
        """The whole message on one line, for a terminal."""
        head = f"{self.where}: {self.what}" if self.where else self.what
        return f"{head} {self.remedy}".strip()


def missing(noun: str, name: str) -> Refusal:
    """The refusal for something that is not, or no longer, there."""
    return Refusal(
        f"There is no {noun} “{name}” here any more.",
        remedy="It may have been removed in another window; look again and repeat what you meant to do.",
        kind="missing",
    )


_SENTENCES = {
    "too_long": ("{field}: at most {max_length} fit, and this would make {actual_length}.", "Take fewer."),
    "too_short": ("{field}: at least {min_length} are needed, and there would be {actual_length}.", "Take more."),
    "string_too_long": ("{field} has more than {max_length} letters.", "Shorten it."),
    "string_too_short": ("{field} is empty.", "Give it at least one letter."),
    "greater_than_equal": ("{field} would be {given:.7g}; it can't be less than {ge:g}.", "Choose a larger number."),
    "less_than_equal": ("{field} would be {given:.7g}; it can't be more than {le:g}.", "Choose a smaller number."),
    "greater_than": ("{field} would be {given:.7g}; it must be more than {gt:g}.", "Choose a larger number."),
    "less_than": ("{field} would be {given:.7g}; it must be less than {lt:g}.", "Choose a smaller number."),
    "finite_number": ("{field} is not a number that can be worked with.", "Type a plain number."),
    "value_error": ("{field}: {error}.", "Choose something else."),
    "missing": ("{field} is missing.", "Give it a value."),
    "extra_forbidden": ("{field} is not something that is known here.", "Leave it out."),
}


def in_words(error: ValidationError) -> Refusal:
    """The refusal that says what a failed check found: what is wrong, where, and what to do."""
    return of_details(error.errors()[0], error.title)


def of_details(first: Mapping[str, Any], title: str) -> Refusal:
    """The same, from the first of an error's details and what it is about as a whole."""
    steps = [str(step).replace("_", " ") for step in first["loc"]]
    named = [step for step in steps if not step.isdigit()]
    field = named[-1] if named else title
    sentence, remedy = _SENTENCES.get(first["type"], ("{field}: {message}.", "Correct it, and try again."))
    given: Any = first["input"] if isinstance(first["input"], int | float) else 0.0
    facts = {"field": field, "given": given, "message": first["msg"], **first.get("ctx", {})}
    what = sentence.format(**facts)
    return Refusal(what[:1].upper() + what[1:], where=" › ".join(steps), remedy=remedy, kind="invalid")
