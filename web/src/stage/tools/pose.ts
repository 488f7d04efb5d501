/**
 * Posing: close on a piece and pull its joint. The pose under the hand is the core's answer to
 * where the hand is; what to do with the values when the hand opens is the bench's business.
 */
import { distance } from "../../geometry";
import { drag, get, grab, type Pose, puppetOf, putBack, stop, pickOut, tryOut } from "../../session";
import { ROOT, type Point, type Pull } from "../../wire/types";
import { shownOnly } from "../moment";
import { meant, pick } from "../pick";
import { jointPlace, pinned, sceneAt, takeJoints, withJoint } from "../scene";
import { pullWay } from "./way";
import { Newest, type Drag, type Hand, type Tool } from "../tool";

export interface PoseWishes {
  pull(): Pull;
  /** Whether the whole puppet is meant, whatever piece is under the hand. */
  whole(): boolean;
  /** Whether several joints can be in hand at once. */
  several?: boolean;
  /** The hand opened on these values, tried at this frame. */
  done(tried: Record<string, number[]>, frame: number): void;
}

interface Aim {
  joint: string;
  /** The piece under the hand, if it closed on one and not on a pin. */
  piece: string | null;
  pull: Pull;
}

/** Screen pixels within which a click counts as being on the same place. */
const SAME = 4;

export function poseTool(wishes: PoseWishes): Tool {
  let lastClick: Hand["at"] | null = null;

  /** What a hand that closes here means to pull; null if nothing. */
  const aim = ({ hit, at }: Hand): Aim | null => {
    const puppet = puppetOf(get());
    if (hit?.kind === "joint" || hit?.kind === "spin") {
      // A handle's diamond moves it and its knob turns it, whatever pulling means for the rest.
      const own: Pull | null = hit.kind === "spin" ? "turn" : puppet?.joints?.[hit.joint]?.handle ? "move" : null;
      return { joint: wishes.whole() && !own ? ROOT : hit.joint, piece: null, pull: own ?? wishes.pull() };
    }
    const piece = meant(at);
    const joint = piece ? puppet?.pieces?.[piece]?.joint : null;
    if (!piece || !joint) return null;
    return { joint: wishes.whole() ? ROOT : joint, piece, pull: wishes.pull() };
  };

  /** A second click on the same place reaches the piece behind. */
  const click = (hand: Hand): void => {
    const again = lastClick !== null && distance(hand.at, lastClick) < SAME;
    lastClick = hand.at;
    const piece = again && !hand.hit ? pick(hand.at, true) : null;
    if (piece)
      pickOut({ pieces: [piece], joint: wishes.whole() ? ROOT : (puppetOf(get())?.pieces?.[piece]?.joint ?? null) });
  };

  return {
    begin(hand) {
      stop();
      if (hand.hit?.kind === "way") return pullWay(hand.hit);
      const aimed = aim(hand);
      const adds = hand.adds && wishes.several;
      if (!aimed && wishes.several) return boxing(hand);
      if (!aimed) {
        pickOut({ pieces: [], joint: null });
        return null;
      }
      const { joint, piece, pull } = aimed;
      const take = () => pickOut({ joint, ...(piece ? { pieces: [piece] } : {}) });
      // With Shift or Ctrl a click takes one more in hand, or lets go of it; a pull is of that one alone.
      if (!adds) take();
      const { frame } = get();
      return pulling({
        close: (tried) => {
          take();
          grab(frame, joint, joint === ROOT ? null : piece, pull, hand.at, tried);
        },
        at: (next) => next.at,
        click: (at) => (adds ? takeJoints(withJoint(joint)) : click(at)),
        done: (tried, at) => wishes.done(tried, at),
      });
    },
  };
}

/** A box drawn over empty paper: what is in it is taken in hand, with Shift or Ctrl beside what is there already. */
function boxing(from: Hand): Drag {
  if (!from.adds) pickOut({ pieces: [], joint: null });
  const before = get().joints;
  return {
    move: (hand) => tryOut({ boxed: [from.at, hand.at] }),
    end(hand, moved) {
      tryOut({ boxed: null });
      if (moved) takeJoints([...new Set([...before, ...jointsIn(from.at, hand.at)])]);
    },
    cancel: () => tryOut({ boxed: null }),
  };
}

/** The joints whose pins show in a box. */
function jointsIn([ax, ay]: Point, [bx, by]: Point): string[] {
  const { plan, pose, frame } = get();
  const [scene, puppet] = [sceneAt(plan, pose, frame), puppetOf(get())];
  if (!scene || !puppet) return [];
  return pinned(puppet, shownOnly(get())).flatMap(({ id }) => {
    const [x, y] = jointPlace(scene, id) ?? [NaN, NaN];
    const within = x >= Math.min(ax, bx) && x <= Math.max(ax, bx) && y >= Math.min(ay, by) && y <= Math.max(ay, by);
    return within ? [id] : [];
  });
}

interface Pulling {
  /** The hand closes, once it moves; what was tried before stays tried. */
  close(tried: Record<string, number[]>): void;
  /** Where a hand is for the core. */
  at(hand: Hand): Point;
  /** The hand opened where it closed. */
  click?(hand: Hand): void;
  /** The hand opened on these values, tried at this frame. */
  done(tried: Record<string, number[]>, frame: number): void;
}

/** A drag that shows the core's answers to where the hand is, one after the other. */
export function pulling({ close, at, click, done }: Pulling): Drag {
  const newest = new Newest();
  let held = false;
  let cancelled = false;
  let pose: Pose | null = null;
  return {
    move(hand) {
      if (!held) {
        held = true;
        close(get().pose?.tried ?? {});
      }
      newest.ask(async () => {
        const answer = await drag(at(hand), hand.shift);
        if (!answer || cancelled) return;
        pose = answer;
        tryOut({ pose });
      });
    },
    end(hand, moved) {
      if (!moved) return click?.(hand);
      // The answer to the last movement may still be on its way.
      void newest.still().then(() => {
        if (pose && !cancelled) done(pose.tried, pose.frame);
      });
    },
    cancel() {
      cancelled = true;
      newest.forget();
      putBack();
    },
  };
}
