"""What of a thing changes: of its fields those that are given, so that two changes made of the same thing, one not
knowing of the other, both hold."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal, Optional, Self, TypeVar, get_args, get_origin

from pydantic import ValidationError, model_validator
from pydantic.fields import FieldInfo

from sorvan.core.errors import in_words, missing
from sorvan.core.model.base import Value

M = TypeVar("M", bound=Value)


class Given(Value):
    """Some fields of a thing `of` a kind, which are read from its model. Its id, and what it is, are always told. Of a
    mapping the entries are given that change, and null for those that go; of a pair of numbers either may be null:
    it stays."""

    thing: ClassVar[type[Value]]

    def __init_subclass__(cls, of: type[Value], **given: Any) -> None:
        cls.thing = of
        annotations: dict[str, Any] = {}
        for name, field in of.model_fields.items():
            always = name == "id" or (get_origin(field.annotation) is Literal and field.is_required())
            annotations[name] = _always(field) if always or name == "kind" else _perhaps(field)
            if not always:
                # What it is tells it from others of its kind.
                setattr(cls, name, field.default if name == "kind" else None)
        cls.__annotations__ = annotations
        super().__init_subclass__(**given)

    @model_validator(mode="before")
    @classmethod
    def _of_a_whole(cls, data: Any) -> Any:
        return {name: getattr(data, name) for name in cls.thing.model_fields} if isinstance(data, cls.thing) else data

    @classmethod
    def whole(cls, thing: Value) -> Self:
        """All that is told of a thing."""
        return cls.model_validate(thing)

    @property
    def told_id(self) -> str:
        """The id of the thing, where its kind has one."""
        id: str = self.id  # type: ignore[attr-defined] # read from its model
        return id

    def over(self, before: M) -> M:
        """The thing with what is given. Raises `Refusal` where it can't be so."""
        return before.changed(**{name: over(getattr(self, name), getattr(before, name)) for name in self._given()})

    def anew(self, model: type[M], noun: str) -> M:
        """The thing made of what is given. Raises `Refusal` if that doesn't make one: then it was meant to be there."""
        given = {name: over(getattr(self, name), None) for name in self._given()}
        if any(f.is_required() and name not in given for name, f in model.model_fields.items()):
            raise missing(noun, getattr(self, "id", noun))
        try:
            return model.model_validate(given)
        except ValidationError as error:
            raise in_words(error) from None

    def among(self, known: Mapping[str, M], model: type[M], noun: str) -> M:
        """The one with its id with what is given, or a new one."""
        return self.over(known[self.told_id]) if self.told_id in known else self.anew(model, noun)

    def _given(self) -> list[str]:
        return [name for name in type(self).model_fields if name in self.model_fields_set]


def over(given: Any, before: Any) -> Any:
    """What is given of a field, over what it was."""
    if isinstance(given, Given):
        return given.over(before)
    if isinstance(given, dict):
        return {key: value for key, value in ((before or {}) | given).items() if value is not None}
    if isinstance(given, tuple) and None in given and isinstance(before, tuple):
        return tuple(old if value is None else value for value, old in zip(given, before, strict=True))
    return given


def _always(field: FieldInfo) -> Any:
    return Annotated[field.annotation, *field.metadata] if field.metadata else field.annotation


def _perhaps(field: FieldInfo) -> Any:
    """The type of a field that need not be given."""
    whole: Any = field.annotation
    inner = get_args(whole)
    if get_origin(whole) in (dict, Mapping):
        whole = dict.__class_getitem__((inner[0], _OR_NOT[inner[1]]))
    elif get_origin(whole) is tuple and len(inner) == 2 and inner[1] is not Ellipsis:
        whole = tuple.__class_getitem__((_OR_NOT[inner[0]], _OR_NOT[inner[1]]))
    return _OR_NOT[Annotated[whole, *field.metadata] if field.metadata else whole]


_OR_NOT: Any = Optional
"""Types are made of types here while the program runs, which no checker follows."""
