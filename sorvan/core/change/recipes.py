"""Commands on recipes: done, done again with other parameters, taken off again."""

from __future__ import annotations

from typing import Literal

from sorvan.core.change.command import Command, MotionCommand
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import AnyRecipe, Gait, PresetName, Recipe
from sorvan.core.motion.gaits import by_preset
from sorvan.core.motion.recipes import taken_off
from sorvan.core.recipes.doing import with_recipe
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


class RemoveRecipe(MotionCommand):
    """Take a recipe off again, with its keys; those that the hand has changed stay."""

    do: Literal["remove-recipe"] = "remove-recipe"
    recipe: Id

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return taken_off(motion, self.recipe)

    def label(self, documents: Documents) -> str:
        held = documents.motion(self.motion).recipes.get(self.recipe)
        return f"Take off {held.name if held else 'a recipe'}"


RecipeCommand = DoRecipe | RemoveRecipe
