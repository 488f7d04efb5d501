"""What every document model shares."""

from __future__ import annotations

import hashlib
import secrets
from abc import abstractmethod
from collections.abc import Mapping
from typing import Annotated, Any, Self

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    ModelWrapValidatorHandler,
    StringConstraints,
    ValidationError,
    model_validator,
)

from sorvan.core.errors import in_words

LONGEST_NAME = 120
"""Letters in the longest name."""


LATER = ConfigDict(defer_build=True)
"""For what is read by its type: it is made ready when it is first read."""


def fresh_id() -> str:
    """A new id for a document, a piece or a joint."""
    return secrets.token_hex(6)


class Value(BaseModel):
    """An immutable value that accepts only what it declares and only finite numbers."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)

    def changed(self, **given: Any) -> Self:
        """This value with some fields given anew, checked as if it were read from outside.

        Whatever is made this way can be stored and read again. Raises `Refusal` where it could not.
        """
        fields = {name: getattr(self, name) for name in self.model_fields_set} | given
        try:
            return type(self).model_validate(fields)
        except ValidationError as error:
            raise in_words(error) from None


class Checked(Value):
    """A value whose parts must fit one another. It is checked where it is made, and never again."""

    @abstractmethod
    def check(self) -> None:
        """Raises `ValueError` unless its parts fit one another."""

    @model_validator(mode="wrap")
    @classmethod
    def _once(cls, data: Any, make: ModelWrapValidatorHandler[Self]) -> Self:
        # What is in a document already would be looked at again with every change around it.
        if isinstance(data, cls):
            return data
        made = make(data)
        made.check()
        return made


Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
Name = Annotated[str, StringConstraints(min_length=1, max_length=LONGEST_NAME, strip_whitespace=True)]
AssetId = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9a-f]{8}$")]
Number = Annotated[float, Field(ge=-1e6, le=1e6)]
Ratio = Annotated[float, Field(ge=0, le=1)]
Percent = Annotated[float, Field(ge=0, le=100)]
Pair = tuple[Number, Number]


def asset_id(data: bytes | bytearray) -> str:
    """The name of an asset: the SHA-256 of its bytes (FIPS 180-4), in hex."""
    return hashlib.sha256(data).hexdigest()


def filed(noun: str, values: Mapping[str, Any]) -> None:
    """Raises `ValueError` unless every value is filed under its own id."""
    for id, value in values.items():
        if value.id != id:
            raise ValueError(f"the {noun} “{value.id}” is filed under “{id}”")


def in_tree(noun: str, parents: Mapping[str, str | None]) -> None:
    """Raises `ValueError` unless following parents always ends: nothing hangs on itself or on what is gone."""
    sound: set[str] = set()
    for start in parents:
        line: dict[str, None] = {}
        at: str | None = start
        while at is not None and at not in sound:
            if at not in parents:
                raise ValueError(f"the {noun} “{[*line][-1]}” hangs on one that is not there")
            if at in line:
                raise ValueError(f"the {noun} “{at}” would hang on itself")
            line[at] = None
            at = parents[at]
        sound.update(line)
