/** Presets: what is wished of a film, by name. Some come with the program; what the user keeps stays in the browser. */
import { keep, kept } from "../../session";
import type { RenderOrder } from "../../wire/types";

/** What is wished of a film, whatever it is of. A width of null is the stage's own, and one below 10 so many times it. */
export interface Wishes {
  format: NonNullable<RenderOrder["format"]>;
  width: number | null;
  clear: boolean;
  sound: boolean;
  blur: number;
  seenAs: RenderOrder["seen_as"];
  rate: [number, number] | null;
}

export const PLAIN: Wishes = {
  format: "mp4",
  width: null,
  clear: false,
  sound: true,
  blur: 1,
  seenAs: null,
  rate: null,
};

export interface Preset {
  name: string;
  wishes: Wishes;
}

export const PRESETS: readonly Preset[] = [
  { name: "Film", wishes: PLAIN },
  { name: "Quick draft, half as large", wishes: { ...PLAIN, width: 0.5 } },
  { name: "Film with motion blur", wishes: { ...PLAIN, blur: 8 } },
  { name: "Film for a page", wishes: { ...PLAIN, format: "webm" } },
  { name: "Small loop for a page", wishes: { ...PLAIN, format: "gif", width: 480, rate: [12, 1] } },
  { name: "Clear pictures to lay over others", wishes: { ...PLAIN, format: "png", clear: true } },
  { name: "Blocking, to show to others", wishes: { ...PLAIN, width: 0.5, seenAs: "blocking" } },
  { name: "Sound alone", wishes: { ...PLAIN, format: "wav" } },
];

const KEY = "render-presets";

/** The user's own, as this browser keeps them. */
export function ownPresets(): Preset[] {
  try {
    const found: unknown = JSON.parse(kept(KEY) ?? "[]");
    return Array.isArray(found) ? (found as Preset[]).map((p) => ({ ...p, wishes: { ...PLAIN, ...p.wishes } })) : [];
  } catch {
    return [];
  }
}

/** Keep wishes under a name; one of the same name is replaced. */
export function keepPreset(name: string, wishes: Wishes): void {
  keep(KEY, JSON.stringify([...ownPresets().filter((p) => p.name !== name), { name, wishes }]));
}

export function forgetPreset(name: string): void {
  keep(KEY, JSON.stringify(ownPresets().filter((p) => p.name !== name)));
}
