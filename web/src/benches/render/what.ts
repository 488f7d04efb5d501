/** What can be rendered: the whole film, a shot, or a motion. */
import { FORMATS } from "../../wire/facts.gen";
import { allPuppets, get, motionsOf, playedOf, productionOf, shotsOf } from "../../session";
import type { Document, Overview, RenderOrder } from "../../wire/types";

export interface What {
  /** `film`, `shot:` or `motion:` with its id. */
  key: string;
  name: string;
  group: "" | "Shots" | "Motions";
  /** How many frames it has, and those that play, from 1. */
  length: number;
  first: number;
  last: number;
  heard: boolean;
  order: Pick<RenderOrder, "motion" | "shot">;
}

export function allOf(documents: Record<string, Document>, overview: Overview | undefined): What[] {
  const shots = shotsOf({ documents });
  const found: What[] = [];
  // How long the film is, the service knows.
  if (shots.length && overview) {
    const { frames } = overview;
    const name = `The whole film: ${productionOf({ documents })?.name ?? ""}`;
    found.push({ key: "film", name, group: "", length: frames, first: 1, last: frames, heard: true, order: {} });
  }
  for (const shot of shots) {
    const [first, stop] = playedOf(shot);
    found.push({
      key: `shot:${shot.id}`,
      name: shot.name,
      group: "Shots",
      length: shot.length,
      first: first + 1,
      last: stop,
      heard: true,
      order: { shot: shot.id },
    });
  }
  for (const puppet of allPuppets(documents))
    for (const motion of motionsOf(documents, puppet.id))
      found.push({
        key: `motion:${motion.id}`,
        name: `${puppet.name}: ${motion.name}`,
        group: "Motions",
        length: motion.length,
        first: 1,
        last: motion.length,
        heard: Object.keys(motion.sounds ?? {}).length > 0,
        order: { motion: motion.id },
      });
  return found;
}

/** What is meant when the bench opens: the film, else the motion that was worked on. */
export const firstOf = (all: What[]): What | undefined =>
  all.find((w) => w.key === "film") ?? all.find((w) => w.order.motion === get().motion) ?? all[0];

/** Whether what is rendered to is looked at, or heard, so. */
export const isA = (form: (typeof FORMATS)[number]["form"], format: unknown): boolean =>
  FORMATS.some((f) => f.id === format && f.form === form);
