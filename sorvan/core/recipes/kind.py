"""What a kind of recipe is: all that has to be known of it, said in one place."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, ClassVar, Generic, Protocol, TypeVar

from sorvan.core.errors import Refusal
from sorvan.core.model.base import Pair
from sorvan.core.model.channels import ChannelId, channel_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import AnyRecipe, RecipeBase
from sorvan.core.model.times import allowed
from sorvan.core.model.voice import Voice
from sorvan.core.motion.recipes import Written
from sorvan.core.plan.turning import seen_from

R = TypeVar("R", bound=RecipeBase)


@dataclass(frozen=True)
class On:
    """What a recipe is done on: a motion that has nothing of it, its puppet, frames a second, and the voice lines that are
    placed on it, by their id."""

    motion: Motion
    puppet: Puppet
    rate: Fraction
    lines: Mapping[str, Voice] = field(default_factory=dict)

    @property
    def stands(self) -> Puppet:
        """The puppet as it is seen in the view that the motion is made for."""
        return seen_from(self.puppet, self.motion.seen)


@dataclass(frozen=True)
class Chosen:
    """What is chosen where a recipe is begun: a joint, channels, a frame, a sound that is placed on the motion."""

    joint: str | None = None
    channels: tuple[str, ...] = ()
    frame: int = 0
    sound: str | None = None


class Sizes(Protocol):
    """Two stages, or puppets, of different size: lengths are `size` times as long."""

    @property
    def size(self) -> float: ...

    def place(self, x: float, y: float) -> Pair: ...


class OtherPuppet(Sizes, Protocol):
    """Another puppet: what of it answers to the owner of a channel by kind and id, what becomes of widths (`way`), whether
    it faces the other way (`across`), and what a value of a dial is there."""

    @property
    def target(self) -> Puppet: ...
    @property
    def across(self) -> bool: ...
    @property
    def way(self) -> float: ...

    def owner(self, kind: str, id: str) -> str | None: ...
    def dial(self, id: str, value: float) -> float: ...


class Kind(ABC, Generic[R]):
    """A kind of recipe, known by the class of its parameters. A kind that `plans_anew` counts its keys anew on another
    puppet; one that `sets_time` takes along all else when its timing changes; one that `knows_hand` is told what the hand
    put among its keys."""

    of: ClassVar[type[Any]]
    name: ClassVar[str]
    does: ClassVar[str]
    plans_anew: ClassVar[bool] = False
    sets_time: ClassVar[bool] = False
    knows_hand: ClassVar[bool] = False

    @abstractmethod
    def write(self, recipe: R, on: On) -> Written:
        """What it writes. Raises `Refusal` when it has nothing to work on."""

    @abstractmethod
    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> R:
        """A new one on what is chosen; `base` is its id and its name. Raises `Refusal` with what to choose first."""

    @abstractmethod
    def carried_over(self, recipe: R, to: OtherPuppet) -> R | None:
        """It as it is for another puppet; none where what it works on has no answer there."""

    def scaled(self, recipe: R, by: Sizes) -> R:
        """It on a stage of another size."""
        return recipe

    def gives_way(self, recipe: R, motion: Motion, new: Written, *, again: bool) -> Motion:
        """The motion without what gives way to what is written, `again` or for the first time."""
        return motion

    def disturbs(self, recipe: R, on: On) -> Sequence[AnyRecipe]:
        """Other recipes that have to be done again after this."""
        return ()


def sized(recipe: R, **lengths: float) -> R:
    """A recipe with other lengths, as far as it allows them."""
    return recipe.changed(**{name: allowed(type(recipe), name, length) for name, length in lengths.items()})


def choose_first(what: str) -> Refusal:
    """Why a recipe can't be begun yet."""
    return Refusal("There is nothing to begin on.", remedy=what)


def channel_over(to: OtherPuppet, id: str) -> str | None:
    """What answers to a channel in another puppet."""
    own, kind = ChannelId.of(id)
    its = to.owner(kind, own)
    return None if its is None else channel_id(its, kind)


def all_over(found: Sequence[str | None]) -> tuple[str, ...] | None:
    """All of them, or none if one has no answer."""
    there = tuple(f for f in found if f is not None)
    return there if len(there) == len(found) else None
