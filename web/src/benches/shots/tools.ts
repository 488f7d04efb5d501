/** The hand on the stage of the Shots bench: it picks and moves the cast, the camera's frame, and points of ways. */
import { get, productionOf, shotOf, sizeOf, stop, submit, pickOut, tryOut } from "../../session";
import { after, inverse, placed } from "../../geometry";
import { castAt, viewAt } from "../../stage/cels";
import { painter, type Painter } from "../../stage/painter";
import { clicking, type Drag, type Hand, type Tool } from "../../stage/tool";
import type { Point } from "../../wire/types";
import { keyAt, nudgeCast, valueNow } from "./commands";
import { posingDrag } from "./posing";

let ready: Painter | null = null;
void painter().then((p) => (ready = p));

/** A point under the hand in units of the picture. */
function inPicture(at: Point): Point {
  const { shotPlan, frame } = get();
  if (!shotPlan || get().through) return at;
  return placed(viewAt(shotPlan, Math.min(frame, shotPlan.frames - 1)), at);
}

/** What a movement of the hand is on the stage, for what has this share in the camera's movement. */
function onStage(from: Point, to: Point, share: number): Point {
  const { shotPlan, frame } = get();
  if (!shotPlan) return [0, 0];
  const back = inverse(viewAt(shotPlan, Math.min(frame, shotPlan.frames - 1), share));
  const [a, b] = [placed(back, inPicture(from)), placed(back, inPicture(to))];
  return [b[0] - a[0], b[1] - a[1]];
}

/** The camera's frame while it is pulled: its middle from that of the stage, zoom and turn. */
export interface Aim {
  move: Point;
  zoom: number;
  turn: number;
}
export const aimNow = (): Aim => ({
  move: valueNow(null, "move") as Point,
  zoom: valueNow(null, "scale")[0]!,
  turn: valueNow(null, "turn")[0]!,
});

export function shotTool(
  pulled: (aim: Aim | null) => void,
  wayPulled: (at: { n: number; at: Point } | null) => void,
): Tool {
  return {
    begin(hand) {
      stop();
      if (hand.hit?.kind === "frame") return pullFrame(hand, hand.hit.part, pulled);
      if (hand.hit?.kind === "via") return pullVia(hand, hand.hit.point, wayPulled);
      const { shotPlan, frame, picked } = get();
      if (!shotPlan || !ready) return null;
      const posing = posingDrag(ready, hand, inPicture);
      if (posing) return posing;
      const found = castAt(ready, shotPlan, Math.min(frame, shotPlan.frames - 1), inPicture(hand.at));
      const before = picked?.kind === "cast" ? picked.id : picked?.kind === "span" ? picked.cast : null;
      const shot = shotOf(get());
      // The backdrop fills the stage: a hand means it only where it is picked already.
      const behind = productionOf(get())?.backdrop;
      const meant = found.filter((id) => shot?.cast?.[id]?.puppet !== behind || id === before);
      const id = before && meant.includes(before) ? before : meant[0];
      if (!id)
        return clicking(() => {
          pickOut({ picked: found[0] ? { kind: "cast", id: found[0] } : null, shotKeys: [] });
        });
      if (id !== before) pickOut({ picked: { kind: "cast", id }, shotKeys: [] });
      // While somebody is posed a hand picks others, and moves nobody.
      if (get().posing) return clicking(() => undefined);
      const share = shotPlan.cels.find((c) => c.cast === id)?.share ?? 100;
      let by: Point = [0, 0];
      return {
        move(next) {
          by = onStage(hand.at, next.at, share);
          if (next.shift) by = Math.abs(by[0]) > Math.abs(by[1]) ? [by[0], 0] : [0, by[1]];
          tryOut({ shifted: { cast: id, by } });
        },
        end(_, moved) {
          // Where it may not be, it is not: what was refused stands where it stood.
          if (moved) void nudgeCast(id, by).then((made) => made || tryOut({ shifted: null }));
          else {
            tryOut({ shifted: null });
            // A second click on the same place reaches who stands behind.
            if (before === id && meant.length > 1)
              pickOut({ picked: { kind: "cast", id: meant[(meant.indexOf(id) + 1) % meant.length]! } });
          }
        },
        cancel: () => tryOut({ shifted: null }),
      };
    },
  };
}

function pullFrame(hand: Hand, part: "move" | "zoom" | "turn", pulled: (aim: Aim | null) => void): Drag {
  const before = aimNow();
  const [width, height] = sizeOf(get());
  const middle: Point = [width / 2 + before.move[0], height / 2 + before.move[1]];
  const reach = (p: Point) => Math.hypot(p[0] - middle[0], p[1] - middle[1]);
  const angle = (p: Point) => (Math.atan2(p[1] - middle[1], p[0] - middle[0]) * 180) / Math.PI;
  let aim = before;
  return {
    move(next) {
      if (part === "move") {
        const [dx, dy] = [next.at[0] - hand.at[0], next.at[1] - hand.at[1]];
        const straight: Point = Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];
        const [x, y] = next.shift ? straight : [dx, dy];
        aim = { ...before, move: [before.move[0] + x, before.move[1] + y] };
      } else if (part === "zoom") {
        aim = { ...before, zoom: (before.zoom * Math.max(reach(hand.at), 1)) / Math.max(reach(next.at), 1) };
      } else {
        const turn = before.turn + angle(next.at) - angle(hand.at);
        aim = { ...before, turn: next.shift ? Math.round(turn / 5) * 5 : turn };
      }
      pulled(aim);
    },
    end(_, moved) {
      const round = (v: number, digits = 2) => Number(v.toFixed(digits));
      pickOut({ picked: { kind: "camera" } });
      if (!moved) return pulled(null);
      const values: Record<string, number[]> =
        part === "move"
          ? { move: aim.move.map((v) => round(v)) }
          : part === "zoom"
            ? { scale: [round(aim.zoom, 4), round(aim.zoom, 4)] }
            : { turn: [round(aim.turn)] };
      void keyAt(null, values).then(() => pulled(null));
    },
    cancel: () => pulled(null),
  };
}

function pullVia(hand: Hand, n: number, pulled: (at: { n: number; at: Point } | null) => void): Drag {
  const { shotPlan, picked } = get();
  const shot = shotOf(get());
  const id = picked?.kind === "cast" ? picked.id : picked?.kind === "span" ? picked.cast : "";
  const member = shot?.cast?.[id];
  const way = member?.kind === "member" ? (member.travel?.way ?? []) : [];
  const share = shotPlan?.cels.find((c) => c.cast === id)?.share ?? 100;
  let to: Point | null = null;
  return {
    move(next) {
      const by = onStage(hand.at, next.at, share);
      const from = way[n]!.at as Point;
      to = [Math.round(from[0] + by[0]), Math.round(next.shift ? from[1] : from[1] + by[1])];
      pulled({ n, at: to });
    },
    end(_, moved) {
      if (!moved || !to || !shot || member?.kind !== "member" || !member.travel) return pulled(null);
      void submit({ do: "set-way-point", shot: shot.id, cast: id, point: n, at: to }).then(() => pulled(null));
    },
    cancel: () => pulled(null),
  };
}

/** A point of the stage where the overlay draws: in the picture's units, or on the whole stage. */
export function toOverlay(at: Point, share: number): Point {
  const { shotPlan, frame } = get();
  if (!shotPlan) return at;
  const f = Math.min(frame, shotPlan.frames - 1);
  const seen = viewAt(shotPlan, f, share);
  const m = get().through ? seen : after(inverse(viewAt(shotPlan, f)), seen);
  return placed(m, at);
}
