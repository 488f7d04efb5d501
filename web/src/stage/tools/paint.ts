/** The weight brush: strokes over a piece that bends give the selected joint more of it, or less. */
import { determinant, distance, unplaced } from "../../geometry";
import { get, lookAtMesh, submit, pickOut } from "../../session";
import type { Point } from "../../wire/types";
import { pick } from "../pick";
import { pieceMatrix, sceneNow } from "../scene";
import type { Drag, Hand, Tool } from "../tool";

export interface Brush {
  /** In stage units. */
  radius: number;
  /** How much a touch adds, -1 to 1. */
  amount: number;
}

interface Dab {
  joint: string;
  x: number;
  y: number;
  radius: number;
  amount: number;
}

/** Touches that one stroke may have. */
const MOST = 500;

export const paintTool = (brush: () => Brush, show: (at: Point | null) => void): Tool => ({
  begin(hand) {
    const { pieces, joint } = get();
    const { hit } = hand;
    if (hit?.kind === "joint") {
      pickOut({ joint: hit.joint });
      if (pieces[0]) lookAtMesh(pieces[0], hit.joint);
      return null;
    }
    if (!pieces[0] || !joint) {
      const found = pick(hand.at, false);
      if (found) pickOut({ pieces: [found] });
      return null;
    }
    return painting(hand, pieces[0], joint, brush, show);
  },
});

function painting(
  from: Hand,
  piece: string,
  joint: string,
  brush: () => Brush,
  show: (at: Point | null) => void,
): Drag {
  const dabs: Dab[] = [];
  const touch = (hand: Hand): void => {
    const dab = dabAt(hand, piece, joint, brush());
    const last = dabs[dabs.length - 1];
    if (!dab || dabs.length >= MOST || (last && distance([last.x, last.y], [dab.x, dab.y]) < dab.radius / 4)) return;
    dabs.push(dab);
  };
  touch(from);
  return {
    move(hand) {
      show(hand.at);
      touch(hand);
    },
    end() {
      show(null);
      const { puppet } = get();
      if (puppet && dabs.length)
        void submit({ do: "paint-weights", puppet, piece, dabs }).then(() => lookAtMesh(piece, joint));
    },
    cancel: () => show(null),
  };
}

/** A touch at the hand's place, in units of the piece's drawing. */
function dabAt(hand: Hand, piece: string, joint: string, { radius, amount }: Brush): Dab | null {
  const scene = sceneNow();
  const m = scene ? pieceMatrix(scene, piece) : null;
  const at = m && unplaced(m, hand.at);
  if (!at) return null;
  const [x, y] = at;
  return { joint, x, y, radius: radius / Math.sqrt(Math.abs(determinant(m))), amount: hand.alt ? -amount : amount };
}
