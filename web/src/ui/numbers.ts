/**
 * How a number is shown and typed: between which ends, how finely, and in what. What the core holds of a field is told
 * here by the field's name, so that no panel says it again.
 */
import { NUMBERS } from "../wire/facts.gen";

/** What only the page holds: how somebody likes to look and to work. */
const OWN = {
  "onion.every": { least: 1, most: 48, whole: true, said: "frames" },
  "onion.count": { least: 0, most: 8, whole: true },
  "onion.strength": { least: 5, most: 100, whole: true },
  "brush.radius": { least: 5, most: 150, whole: true },
  "mouths.size": { least: 56, most: 150, whole: true },
  "hand.late": { least: 0, most: 12, whole: true, said: "frames" },
  "lineup.others": { least: 0, most: 100, whole: true },
  "new.parts": { least: 0.1, most: 100 },
  "steps.asked": { ...NUMBERS["FitSteps.steps"], least: 0 },
  "patch.reach": { least: 0, most: NUMBERS["BendSheet.turning"].most },
  "betweens.every": { least: 1, most: 48, whole: true, said: "frames" },
  "morph.step": { least: 0, whole: true },
  "turn.round": { least: 0, most: 360, whole: true },
} as const;

const ALL = { ...NUMBERS, ...OWN };

/** A number of a document, a command or a request, or of the page. */
export type NumberOf = keyof typeof ALL;

interface Fact {
  least?: number;
  most?: number;
  above?: number;
  below?: number;
  untold?: number;
  whole?: boolean;
  said?: "frame" | "frames";
}

export interface Told {
  of?: NumberOf;
  /** Ends that hold here besides, as the core holds the number. */
  min?: number;
  max?: number;
  /** How many times what the core holds is shown: 100 for percent. */
  times?: number;
  /** What is added to it then: 1 for what is counted from 1 on. A frame is, without being told. */
  plus?: number;
  digits?: number;
  unit?: string;
}

/** The most that a number may be. */
export const mostOf = (
  of: { [K in NumberOf]: (typeof ALL)[K] extends { most: number } ? K : never }[NumberOf],
): number => ALL[of].most;

/** Without the crumbs of binary fractions. */
const even = (v: number): number => Number(v.toFixed(9));

/** How a number is shown, and what is meant by one that is typed. */
export function shownAs({ of, min, max, times = 1, plus, digits, unit }: Told) {
  const fact: Fact = of ? ALL[of] : {};
  const added = plus ?? (fact.said === "frame" ? 1 : 0);
  const places = digits ?? (fact.whole && times === 1 ? 0 : 1);
  const finest = 10 ** -places;
  const show = (v: number): number => even(v * times + added);
  const ends = (given: (number | undefined)[]): number[] => given.filter((v) => v !== undefined).map(show);
  const low = [...ends([fact.least, min]), ...ends([fact.above]).map((v) => even(v + finest))];
  const high = [...ends([fact.most, max]), ...ends([fact.below]).map((v) => even(v - finest))];
  return {
    unit: unit ?? fact.said ?? "",
    digits: places,
    min: low.length ? Math.max(...low) : undefined,
    max: high.length ? Math.min(...high) : undefined,
    shown: (held: number | null | undefined): number => show(held ?? fact.untold ?? 0),
    meant(typed: number): number {
      const held = even((typed - added) / times);
      return fact.whole ? Math.round(held) : held;
    },
  };
}
