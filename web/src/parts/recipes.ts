/** The kinds of recipes, and beginning one on what is selected. */
import { freshId, get, submit, pickOut } from "../session";
import { CHOICES, RECIPES } from "../wire/facts.gen";
import type { Preset, Recipe } from "../wire/types";

/** How a field of a recipe is set: by a number between two ends, or by one of its choices. */
export interface Setting {
  key: string;
  label: string;
  /** What explains it to whoever doesn't know its name. */
  tip: string;
  unit: string;
  min: number;
  max: number;
  step: number;
  /** What it stands at where the recipe says nothing. */
  start: number | string | null;
  /** The number that stands for nothing told. */
  untold: number | null;
  choices: readonly (readonly [value: string, words: string])[];
  /** The other field, and what it has to hold for this one to count. */
  where: readonly [key: string, value: string] | null;
}

export interface Described {
  kind: string;
  name: string;
  does: string;
  settings: readonly Setting[];
}

export const KINDS = RECIPES as readonly Described[];
export const described = (kind: Recipe["kind"]): Described => KINDS.find((k) => k.kind === kind)!;

/** What a field of a recipe stands at. */
export function standsAt(recipe: Recipe, setting: Pick<Setting, "key" | "start">): number | string | null {
  return (recipe as unknown as Record<string, number | string | null | undefined>)[setting.key] ?? setting.start;
}

/** The fields that count for a recipe as it stands. */
export function settingsOf(recipe: Recipe): readonly Setting[] {
  const { settings } = described(recipe.kind);
  return settings.filter(({ where }) => {
    const other = where && settings.find((s) => s.key === where[0]);
    return !other || standsAt(recipe, other) === where![1];
  });
}

/** The gaits that are there ready made. */
export const GAITS: readonly Preset[] = CHOICES["ChangeRecipe.preset"];

/** Begin a recipe of a kind on what is selected. */
export async function begin(kind: string, motion: string): Promise<void> {
  const now = get();
  const id = freshId();
  const done = await submit({
    do: "begin-recipe",
    motion,
    id,
    kind,
    joint: now.joint,
    channels: [...new Set(now.keys.map((k) => k.channel))],
    frame: now.keys[0]?.frame ?? now.poses[0] ?? now.frame,
    sound: now.line,
  });
  if (done) pickOut({ recipe: id });
}
