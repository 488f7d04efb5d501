/** Touching up what a piece shows: lines wiped off or drawn on it, and its parts moved. */
import { minus } from "../../geometry";
import { get, puppetOf, pickOut } from "../../session";
import type { Point, TouchUp } from "../../wire/types";
import { meant } from "../pick";
import type { Hand, Tool } from "../tool";
import { stroking } from "./draw";

export type Touching = "eraser" | "brush" | "parts";

export interface TouchWishes {
  way: Touching;
  /** What lines are drawn with, asked when it is needed. In stage units. */
  pen(): { width: number; colour: string };
  /** The line so far, for the overlay. */
  show(points: Point[]): void;
  /** The part that is taken at a place; null where there is none. */
  part(at: Point): number | null;
  /** How far the part in hand is carried (stage units), for the overlay. */
  carry(by: Point | null): void;
  touch(touch: TouchUp): Promise<unknown>;
}

/** Of several pieces in hand, or of none, the one under the hand is taken first. */
function inHand(hand: Hand): boolean {
  const { pieces } = get();
  if (pieces.length === 1 && puppetOf(get())?.pieces?.[pieces[0]!]) return true;
  const found = meant(hand.at);
  pickOut({ pieces: found ? [found] : [] });
  return false;
}

export const touchTool = (wishes: TouchWishes): Tool => ({
  begin(hand) {
    if (!inHand(hand)) return null;
    if (wishes.way !== "parts") {
      wishes.show([hand.at]);
      return stroking(hand, wishes.show, (points) => {
        const edit = wishes.way === "eraser" ? "wipe" : "draw";
        void wishes.touch({ edit, points, ...wishes.pen() }).finally(() => wishes.show([]));
      });
    }
    const part = wishes.part(hand.at);
    if (part === null) {
      const found = meant(hand.at);
      if (found) pickOut({ pieces: [found] });
      return null;
    }
    return {
      move: (to) => wishes.carry(minus(to.at, hand.at)),
      end: (to, moved) => {
        if (!moved) return wishes.carry(null);
        void wishes.touch({ edit: "shift", part, by: minus(to.at, hand.at) }).finally(() => wishes.carry(null));
      },
      cancel: () => wishes.carry(null),
    };
  },
});
