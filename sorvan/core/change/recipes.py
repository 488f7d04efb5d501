"""Commands on recipes: done, done again with other parameters, taken off again."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from sorvan.core.change.command import Command, MotionCommand
from sorvan.core.change.given import over
from sorvan.core.change.production import SetMotion
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import AnyRecipe, Capture, Gait, PresetName, Recipe
from sorvan.core.model.times import Frame
from sorvan.core.motion.recipes import taken_off
from sorvan.core.planning.gaits import by_preset
from sorvan.core.recipes.capture import frames_of
from sorvan.core.recipes.doing import with_recipe
from sorvan.core.recipes.kind import Chosen, On
from sorvan.core.recipes.registry import kind_named
from sorvan.core.timing.rates import per_second


class DoRecipe(Command):
    """Do a recipe on a motion, or do it again with other parameters: it writes its keys anew, and leaves
    those that the hand has changed. With a `preset` a gait is shaped as that has it. `afresh` gives up what the hand took away."""

    do: Literal["do-recipe"] = "do-recipe"
    motion: Id
    recipe: Recipe
    preset: PresetName | None = None
    afresh: bool = False

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        recipe = self._recipe()
        if self.afresh and self.recipe.id in motion.recipes:
            known = motion.recipes[self.recipe.id].changed(left_out=())
            motion = motion.changed(recipes=motion.recipes | {known.id: known})
        rate = per_second(documents.production.rate)
        puppet, lines = documents.puppet(motion.puppet), documents.lines_on(motion)
        done, new = with_recipe(motion, puppet, recipe, rate, lines)
        if not any(new.keys.values()):
            raise Refusal("There is nothing to write.", where=self.recipe.name, remedy=" ".join(new.said))
        return documents.with_(done)

    def _recipe(self) -> AnyRecipe:
        if self.preset is not None and isinstance(self.recipe, Gait):
            return by_preset(self.recipe, self.preset)
        return self.recipe

    def label(self, documents: Documents) -> str:
        again = self.recipe.id in documents.motion(self.motion).recipes
        return f"{'Redo' if again else 'Do'} {self._recipe().name}"


class BeginRecipe(Command):
    """Begin a recipe of a kind on what is chosen: a joint, channels (all, if none is), a frame, a sound on the motion."""

    do: Literal["begin-recipe"] = "begin-recipe"
    motion: Id
    id: Id
    kind: Annotated[str, Field(max_length=40)]
    joint: Id | None = None
    channels: Annotated[tuple[str, ...], Field(max_length=400)] = ()
    frame: Frame = 0
    sound: Id | None = None

    def result(self, documents: Documents) -> Documents:
        motion, kind = documents.motion(self.motion), kind_named(self.kind)
        if self.id in motion.recipes:
            raise Refusal("There is a recipe with this id already.", where=self.id, kind="conflict")
        rate = per_second(documents.production.rate)
        on = On(motion, documents.puppet(motion.puppet), rate, documents.lines_on(motion))
        chosen = Chosen(self.joint, self.channels, self.frame, self.sound)
        recipe = kind.begun({"id": self.id, "name": kind.name}, on, chosen)
        return DoRecipe(motion=self.motion, recipe=recipe).result(documents)

    def label(self, documents: Documents) -> str:
        return f"Do {kind_named(self.kind).name}"


CLOSING = 12
"""Frames over which a recording is led back to where it began, unless it is short."""


class LoopCapture(Command):
    """Make a loop of a recording: the motion is a cycle, and ends with it, and its end is led back to where it began."""

    do: Literal["loop-capture"] = "loop-capture"
    motion: Id
    recipe: Id

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        recipe = motion.recipes.get(self.recipe)
        if not isinstance(recipe, Capture):
            raise Refusal("Only what was recorded is made a loop of.", where=motion.name, remedy="Record it first.")
        count = frames_of(recipe)
        length = recipe.start + count
        documents = SetMotion(motion=motion.id, length=length, cycle=True).apply(documents)
        closing = recipe.closing or min(CLOSING, count // 3)
        return ChangeRecipe(motion=motion.id, recipe=recipe.id, given={"closing": closing}).apply(documents)

    def label(self, documents: Documents) -> str:
        found = documents.motion(self.motion).recipes.get(self.recipe)
        return f"Make a loop of “{found.name if found else self.recipe}”"


class ChangeRecipe(Command):
    """Do a recipe again with some of its parameters changed: only what is given, and of what is filed by frames or names
    only those, with null for what goes. With a `preset` a gait is shaped as that
    has it. `afresh` gives up what the hand took away."""

    do: Literal["change-recipe"] = "change-recipe"
    motion: Id
    recipe: Id
    given: Annotated[dict[str, Any], Field(max_length=40)] = {}
    preset: PresetName | None = None
    afresh: bool = False

    def result(self, documents: Documents) -> Documents:
        return self._done(documents).result(documents)

    def label(self, documents: Documents) -> str:
        return self._done(documents).label(documents)

    def _done(self, documents: Documents) -> DoRecipe:
        held = documents.motion(self.motion).recipes.get(self.recipe)
        if held is None:
            raise Refusal("That recipe is gone.", where=self.recipe, remedy="Undo brings it back.", kind="missing")
        own = type(held).model_fields.keys() - {"id", "kind", "said", "left_out"}
        for name in self.given:
            if name not in own:
                raise missing(f"parameter of “{held.name}”", name)
        recipe = held.changed(**{name: over(value, getattr(held, name)) for name, value in self.given.items()})
        return DoRecipe(motion=self.motion, recipe=recipe, preset=self.preset, afresh=self.afresh)


class RemoveRecipe(MotionCommand):
    """Take a recipe off again, with its keys; those that the hand has changed stay."""

    do: Literal["remove-recipe"] = "remove-recipe"
    recipe: Id

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return taken_off(motion, self.recipe)

    def label(self, documents: Documents) -> str:
        held = documents.motion(self.motion).recipes.get(self.recipe)
        return f"Take off {held.name if held else 'a recipe'}"


RecipeCommand = DoRecipe | BeginRecipe | LoopCapture | ChangeRecipe | RemoveRecipe
