/** What would come of using something again: asked for anew whenever something of it is told otherwise. */
import { useEffect, useState } from "react";
import { lookAtFitting, tell } from "../../session";
import type { FittingView, PuppetGlance, Source } from "../../wire/types";

/** Something that can be used again: where it is, and what it has. */
export interface Chosen {
  key: string;
  source: Source;
  glance: PuppetGlance;
  /** Where it lies, in words. */
  where: string;
}

export type Told = Record<string, string | null>;

/** Milliseconds that are waited for another tick before it is looked again. */
const SOON = 150;

export function useFitting(
  purpose: "rig" | "motions",
  chosen: Chosen,
  puppet: string,
  told: Told,
  motions: string[],
): { view: FittingView | null; looking: boolean; refused: string | null } {
  const asked = JSON.stringify({ purpose, source: chosen.source, puppet, told, motions });
  const [found, setFound] = useState<{ asked: string; view: FittingView | null; refused: string | null } | null>(null);
  useEffect(() => {
    let over = false;
    const later = setTimeout(() => {
      lookAtFitting(JSON.parse(asked)).then(
        (view) => {
          if (over) return;
          setFound({ asked, view, refused: null });
        },
        (error: unknown) => {
          if (over) return;
          if (!(error instanceof Error)) tell(error);
          setFound({ asked, view: null, refused: error instanceof Error ? error.message : "" });
        },
      );
    }, SOON);
    return () => {
      over = true;
      clearTimeout(later);
    };
  }, [asked]);
  const now = found?.asked === asked ? found : null;
  // What was there is shown until it is looked at anew.
  return { view: now ? now.view : (found?.view ?? null), looking: now === null, refused: now?.refused ?? null };
}
