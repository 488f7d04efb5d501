/**
 * The hand on the stage by keys: a cross that the arrows move. Enter takes hold of what is under it and lets go, Space
 * clicks, Page Down and Page Up go to the next thing that can be held and to the one before. What a tool makes of it is
 * what it makes of any hand, so that nothing on a stage needs a pointer.
 */
import { useRef, useState, type KeyboardEvent } from "react";
import { distance } from "../geometry";
import { get, puppetOf } from "../session";
import type { Point } from "../wire/types";
import { piecesAt } from "./pick";
import { hitOf, type Hit } from "./tool";
import { without } from "./view";

/** Stage units that an arrow moves the cross; with Shift; and how much farther while the key is held down. */
const STEP = 1;
const FAR = 10;
const HELD = [
  { repeats: 24, times: 10 },
  { repeats: 8, times: 4 },
];
/** Screen pixels that the cross keeps from the edge of the stage. */
const EDGE = 16;

const ARROWS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** What is under the cross, in words. */
export function named(hit: Hit | null, at: Point): string {
  const puppet = puppetOf(get());
  const joint = (id: string) => puppet?.joints?.[id]?.name ?? "joint";
  const piece = (id: string) => puppet?.pieces?.[id]?.name ?? "piece";
  switch (hit?.kind) {
    case "joint":
      return `${joint(hit.joint)}, ${puppet?.joints?.[hit.joint]?.handle ? "handle" : "joint"}`;
    case "spin":
      return `turn of ${joint(hit.joint)}`;
    case "limit":
      return `${hit.end === "low" ? "lower" : "upper"} limit of ${joint(hit.joint)}`;
    case "pin":
      return `pin of ${piece(hit.piece)}`;
    case "turn":
      return `turn of ${piece(hit.piece)}`;
    case "scale":
      return `size of ${piece(hit.piece)}`;
    case "way":
      return hit.end ? `way ${hit.end} frame ${hit.frame + 1}` : `place at frame ${hit.frame + 1}`;
    case "point":
    case "via":
      return `point ${hit.point + 1}`;
    case "frame":
      return { move: "frame of the camera", zoom: "zoom of the camera", turn: "turn of the camera" }[hit.part];
    case "axis":
      return "axis of the other side";
    case "edge":
      return "line of the shape";
    default: {
      const found = piecesAt(at)[0];
      return found ? piece(found) : "nothing to hold";
    }
  }
}

interface Props {
  box: React.RefObject<HTMLDivElement | null>;
  to: (p: Point) => Point;
  /** Stage units of a place on the screen. */
  toStage: (at: { clientX: number; clientY: number }) => Point;
  scale: number;
  size: [number, number];
  shift: (dx: number, dy: number) => void;
  /** The hand closes, on what it was led to or else on what is there, moves and opens at a place on the stage. */
  close: (at: Point, keys: { shift: boolean; alt: boolean }, on: Hit | null) => void;
  move: (at: Point) => void;
  open: (at: Point) => void;
  holds: () => boolean;
  /** The hand lets go of what it holds, which stays as it was. */
  drop: () => void;
}

export interface Cross {
  on: boolean;
  toggle: () => void;
  onKeyDown: (event: KeyboardEvent) => void;
  overlay: React.ReactNode;
  said: React.ReactNode;
}

export function useCross({ box, to, toStage, scale, size, shift, close, move, open, holds, drop }: Props): Cross {
  const [at, setAt] = useState<Point | null>(null);
  const [under, setUnder] = useState("");
  const holding = holds();
  const repeats = useRef(0);
  /** The handle that the cross was led to, which others may lie upon. */
  const led = useRef<{ n: number; at: Point; hit: Hit | null } | null>(null);

  const hit = (p: Point): Hit | null => {
    if (led.current && distance(led.current.at, p) * scale < 1) return led.current.hit;
    const element = document.elementFromPoint(...without(box.current!, to(p)));
    return hitOf(element?.closest("[data-handle]")?.getAttribute("data-handle"));
  };
  const look = (p: Point) => setUnder(named(hit(p), p));
  /** The places of all that can be held, as the overlay has them. */
  const handles = (): { at: Point; hit: Hit | null }[] =>
    [...box.current!.querySelectorAll('[data-handle]:not([data-handle^="edge"])')].map((element) => {
      const b = element.getBoundingClientRect();
      const at = toStage({ clientX: b.left + b.width / 2, clientY: b.top + b.height / 2 });
      return { at, hit: hitOf(element.getAttribute("data-handle")) };
    });
  const go = (next: Point) => {
    setAt(next);
    const [x, y] = to(next);
    const beyond = (v: number, room: number) => Math.min(0, v - EDGE) + Math.max(0, v - room + EDGE);
    const [dx, dy] = [beyond(x, size[0]), beyond(y, size[1])];
    if (dx || dy) shift(-dx, -dy);
    if (holds()) move(next);
    else look(next);
  };
  const handleFrom = (p: Point, by: 1 | -1) => {
    const all = handles();
    if (!all.length) return;
    const near = (n: number) => distance(all[n]!.at, p) * scale < 1;
    const known = led.current?.n ?? -1;
    const here = all[known] && near(known) ? known : all.findIndex((_, n) => near(n));
    const n = here < 0 ? (by > 0 ? 0 : all.length - 1) : (here + by + all.length) % all.length;
    led.current = { n, ...all[n]! };
    go(all[n]!.at);
  };
  const putAway = () => {
    if (holds()) drop();
    setAt(null);
  };
  const toggle = () => {
    led.current = null;
    if (at) {
      putAway();
      return;
    }
    box.current!.focus({ preventScroll: true });
    const [clientX, clientY] = without(box.current!, [size[0] / 2, size[1] / 2]);
    const middle = toStage({ clientX, clientY });
    setAt(middle);
    look(middle);
  };

  const onKeyDown = (event: KeyboardEvent) => {
    if (!at || event.target !== box.current || event.ctrlKey || event.metaKey) return;
    const arrow = ARROWS[event.key];
    repeats.current = event.repeat ? repeats.current + 1 : 0;
    const acts: Record<string, () => void> = {
      Enter: () => {
        if (holds()) open(at);
        else close(at, { shift: event.shiftKey, alt: event.altKey }, hit(at));
        look(at);
      },
      " ": () => {
        if (holds()) return;
        close(at, { shift: event.shiftKey, alt: event.altKey }, hit(at));
        open(at);
        look(at);
      },
      PageDown: () => !holds() && handleFrom(at, 1),
      PageUp: () => !holds() && handleFrom(at, -1),
      Escape: putAway,
    };
    const act = arrow
      ? () => {
          const times = HELD.find((h) => repeats.current >= h.repeats)?.times ?? 1;
          const step = (event.shiftKey ? FAR : STEP) * times;
          go([at[0] + arrow[0] * step, at[1] + arrow[1] * step]);
        }
      : acts[event.key];
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };

  const place = at && to(at);
  return {
    on: at !== null,
    toggle,
    onKeyDown,
    overlay: place && (
      <g className={`cross${holding ? " holding" : ""}`} transform={`translate(${place[0]} ${place[1]})`}>
        <path className="rim" d="M-14 0H-4M4 0H14M0-14V-4M0 4V14" />
        <path d="M-14 0H-4M4 0H14M0-14V-4M0 4V14" />
        {holding && <circle r={9} />}
      </g>
    ),
    said: (
      <div className={`cross-said${at ? "" : " visually-hidden"}`} role="status">
        {at && `${holding ? "Holding " : ""}${under}, ${Math.round(at[0])} u across, ${Math.round(at[1])} u down`}
        {at && <span className="faint"> · {holding ? "Enter lets go" : "Enter takes hold, Page Down: the next"}</span>}
      </div>
    ),
  };
}
