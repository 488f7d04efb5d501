/** The stage: the paper with the puppet on it, an overlay of handles, and the hand upon both. */
import { WHITE } from "../ui/paints";
import { distance } from "../geometry";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { ROOT, type Point } from "../wire/types";
import { useShallow } from "zustand/react/shallow";
import { get, useProduction, useSize, useWorkshop, see } from "../session";
import { IconButton } from "../ui/bits";
import { useRoom } from "../ui/room";
import { several } from "../ui/text";
import { useCross } from "./cross";
import { alone, hiddenNow, hideNow, leavesOut, showAll } from "./moment";
import { measure } from "./measure";
import { usePainting, type View } from "./painting";
import { type Box, middleInHand, sceneNow } from "./scene";
import { holding, useShortcuts, type Shortcut } from "../ui/shortcuts";
import { hitOf, type Drag, type Hand, type Tool } from "./tool";
import { Pinch, useLooking, within, without, type Looking } from "./view";

export type { View } from "./painting";

interface Props {
  tool: Tool;
  /** Drawn over the stage, in screen pixels; `to` takes stage units there. */
  overlay?: (to: (p: Point) => Point, view: View) => ReactNode;
  children?: ReactNode;
  tried?: boolean;
  /** What to show when nothing else is asked for; the whole paper if not given. */
  focus?: Box | null;
  label: string;
}

interface Grip {
  /** The pointer that holds, or the keys. */
  pointer: number;
  pan: boolean;
  from: Point;
  moved: boolean;
  drag: Drag | null;
  release: () => void;
}

type Pointed = Pick<React.PointerEvent, "clientX" | "clientY" | "shiftKey" | "altKey" | "ctrlKey" | "metaKey">;

/** What holds when it is the keys that do. */
const KEYS = -1;
/** Screen pixels that a key shifts the view, and how much a step zooms it. */
const SHIFT = 60;
const ZOOM = 1.25;

export function Stage({ tool, overlay, children, tried, focus, label }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [turn, setTurn] = useState(0);
  const anew = useCallback(() => setTurn((n) => n + 1), []);
  const size = useRoom(box);
  const production = useProduction();
  const [width, height] = useSize();
  const looking = useLooking(box, size, focus ?? [0, 0, width, height]);
  const { shown, shift, zoom } = looking;

  usePainting(canvas, size, shown, width, height, production?.paper ?? WHITE, turn, anew);

  const toStage = useCallback(
    (event: { clientX: number; clientY: number }): Point => {
      const [x, y] = within(box.current!, event);
      return [(x - shown.x) / shown.scale, (y - shown.y) / shown.scale];
    },
    [shown],
  );
  const to = useCallback((p: Point): Point => [p[0] * shown.scale + shown.x, p[1] * shown.scale + shown.y], [shown]);

  /** The hand upon the stage: one pointer, from when it goes down until it goes up, is lost or taken back. */
  const grip = useRef<Grip | null>(null);
  /** How often the hand of the keys closed or opened: it says what it holds. */
  const [, setTurns] = useState(0);
  const handAt = (event: Pointed): Hand => {
    const element = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-handle]");
    return {
      at: toStage(event),
      hit: hitOf(element?.getAttribute("data-handle")),
      shift: event.shiftKey,
      alt: event.altKey,
      adds: event.shiftKey || event.ctrlKey || event.metaKey,
      scale: shown.scale,
    };
  };

  const letGo = useCallback((pointer?: number) => {
    const held = grip.current;
    if (!held || (pointer !== undefined && held.pointer !== pointer)) return;
    grip.current = null;
    held.release();
    held.drag?.cancel();
    if (held.pointer === KEYS) setTurns((n) => n + 1);
  }, []);
  const open = (pointer: number, hand: () => Hand) => {
    const held = grip.current;
    if (held?.pointer !== pointer) return;
    grip.current = null;
    held.release();
    held.drag?.end(hand(), held.moved);
    if (pointer === KEYS) setTurns((n) => n + 1);
  };
  const [pinch] = useState(() => new Pinch());
  const onScreen = (event: React.PointerEvent): Point => within(box.current!, event);
  const down = (event: React.PointerEvent) => {
    if ((event.target as HTMLElement).closest("button, a, input, select, label")) return;
    if (event.pointerType === "touch" && pinch.begins(event.pointerId, onScreen(event))) return letGo();
    const pan = event.button === 1 || event.button === 2;
    if ((!pan && event.button !== 0) || grip.current) return;
    box.current!.focus({ preventScroll: true });
    try {
      box.current!.setPointerCapture(event.pointerId);
    } catch {
      // A pointer that is already gone can't be held, and needs no holding.
    }
    const drag = pan ? null : tool.begin(handAt(event));
    const release = holding(() => letGo());
    grip.current = { pointer: event.pointerId, pan, from: [event.clientX, event.clientY], moved: false, drag, release };
    event.preventDefault();
  };
  const move = (event: React.PointerEvent) => {
    const pinched = pinch.moves(event.pointerId, onScreen(event));
    if (pinched) return zoom(pinched.by, pinched.about, pinched.shift);
    const held = grip.current;
    if (held?.pointer !== event.pointerId) return;
    if (held.pan) {
      shift(event.clientX - held.from[0], event.clientY - held.from[1]);
      held.from = [event.clientX, event.clientY];
      return;
    }
    if (!held.moved && distance([event.clientX, event.clientY], held.from) < 3) return;
    held.moved = true;
    measure("pointer");
    held.drag?.move(handAt(event));
  };
  const up = (event: React.PointerEvent) => {
    pinch.ends(event.pointerId);
    open(event.pointerId, () => handAt(event));
  };
  const lost = (event: React.PointerEvent) => {
    pinch.ends(event.pointerId);
    letGo(event.pointerId);
  };
  // A tool that is put away takes its drag with it.
  useEffect(() => () => letGo(), [tool, letGo]);

  /** A hand of the keys at a place of the stage. */
  const keyed = (at: Point, keys = { shift: false, alt: false }): Hand => {
    const [clientX, clientY] = without(box.current!, to(at));
    const hand = handAt({
      clientX,
      clientY,
      shiftKey: keys.shift,
      altKey: keys.alt,
      ctrlKey: false,
      metaKey: false,
    });
    return { ...hand, at };
  };
  const cross = useCross({
    box,
    to,
    toStage,
    scale: shown.scale,
    size,
    shift,
    close(at, keys, on) {
      if (grip.current) return;
      const drag = tool.begin({ ...keyed(at, keys), hit: on });
      const release = holding(() => letGo());
      grip.current = { pointer: KEYS, pan: false, from: at, moved: false, drag, release };
      setTurns((n) => n + 1);
    },
    move(at) {
      const held = grip.current;
      if (held?.pointer !== KEYS) return;
      held.moved = true;
      held.drag?.move(keyed(at));
    },
    open: (at) => open(KEYS, () => keyed(at)),
    holds: () => grip.current?.pointer === KEYS,
    drop: () => letGo(KEYS),
  });
  /** Nearer, and closer to what is in hand; or farther away. */
  const nearer = useCallback(
    (by: number) => {
      const scene = by > 1 && leavesOut(get()) ? sceneNow() : null;
      const at = scene && middleInHand(scene);
      if (!at) return zoom(by);
      const [x, y] = to(at);
      zoom(by, [x, y], [(size[0] / 2 - x) / 2, (size[1] / 2 - y) / 2]);
    },
    [zoom, to, size],
  );
  const seen = useMemo(() => ({ ...looking, zoom: nearer }), [looking, nearer]);
  useViewKeys(seen, cross.toggle);

  return (
    <div
      ref={box}
      className={`stage${tried ? " tried" : ""}`}
      tabIndex={0}
      role="application"
      aria-label={label}
      data-scale={shown.scale}
      data-x={shown.x}
      data-y={shown.y}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={lost}
      onLostPointerCapture={lost}
      onKeyDown={cross.onKeyDown}
      onContextMenu={(e) => e.preventDefault()}
    >
      <canvas key={turn} ref={canvas} />
      <svg aria-hidden="true">
        {overlay?.(to, shown)}
        {cross.overlay}
      </svg>
      {children}
      {cross.said}
      <LeftOut />
      <ViewBar looking={seen} cross={cross.on} toggle={cross.toggle} />
    </div>
  );
}

/** The view by keys. */
function useViewKeys({ zoom, shift, fit }: Looking, cross: () => void): void {
  const latest = useRef(cross);
  latest.current = cross;
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: ["+", "="], does: "Nearer", run: () => zoom(ZOOM) },
      { keys: ["-"], does: "Farther away", run: () => zoom(1 / ZOOM) },
      { keys: ["0"], does: "Fit the view", run: fit },
      {
        keys: ["Ctrl+ArrowLeft"],
        does: "See more to the left (Ctrl and the other arrows: there)",
        run: () => shift(SHIFT, 0),
      },
      { keys: ["Ctrl+ArrowRight"], run: () => shift(-SHIFT, 0) },
      { keys: ["Ctrl+ArrowUp"], run: () => shift(0, SHIFT) },
      { keys: ["Ctrl+ArrowDown"], run: () => shift(0, -SHIFT) },
      {
        keys: ["x"],
        does: "A hand on the stage by keys: arrows move it, Enter takes hold",
        run: () => latest.current(),
      },
    ],
    [zoom, shift, fit],
  );
  useShortcuts(shortcuts);
}

/** Says what the stage leaves out for the moment, and brings it back. */
function LeftOut() {
  const { isolated, hidden } = useWorkshop(useShallow((w) => ({ isolated: w.isolated, hidden: hiddenNow(w) })));
  if (!isolated && !hidden) return null;
  return (
    <button type="button" className="icon-btn card-sheet alone" title="Show all (Alt+I)" onClick={showAll}>
      <i className={`bi bi-${isolated ? "zoom-in" : "eye-slash"}`} aria-hidden="true" />{" "}
      {isolated ? "Shown alone" : `${several(hidden, "piece")} hidden for the moment`}: show all
    </button>
  );
}

/** What is left out of sight while a puppet is worked on, by buttons and keys. */
function LeaveOut() {
  const { isolated, cropped, taken } = useWorkshop(
    useShallow((w) => ({
      isolated: w.isolated,
      cropped: w.cropped,
      taken: w.pieces.length + w.joints.filter((id) => id !== ROOT).length > 0,
    })),
  );
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: ["i"], does: "Show what is selected alone, or all again", run: alone },
      { keys: ["Shift+i"], does: "Hide what is selected, for the moment", run: hideNow },
      { keys: ["Alt+i"], does: "Show all again that is hidden for the moment", run: showAll },
    ],
    [],
  );
  useShortcuts(shortcuts);
  return (
    <>
      <IconButton
        quiet
        icon="zoom-in"
        label={isolated ? "Show all again" : "Show what is selected alone"}
        keys="i"
        pressed={isolated}
        disabled={!isolated && !taken}
        onClick={alone}
      />
      <IconButton
        quiet
        icon="eye-slash"
        label="Hide what is selected, for the moment; it stays in the film"
        keys="Shift+i"
        disabled={!taken}
        onClick={hideNow}
      />
      <IconButton
        quiet
        icon="mask"
        label={cropped ? "What lies outside the picture is hidden" : "What lies outside the picture shows"}
        pressed={cropped}
        onClick={() => see({ cropped: !cropped })}
      />
    </>
  );
}

/** The view by buttons. */
function ViewBar({ looking, cross, toggle }: { looking: Looking; cross: boolean; toggle: () => void }) {
  const percent = Math.round(looking.shown.scale * 100);
  const ofPuppet = useWorkshop(leavesOut);
  return (
    <div className="view-bar card-sheet" role="group" aria-label="View">
      {ofPuppet && <LeaveOut />}
      <IconButton
        quiet
        icon="crosshair"
        label="A hand on the stage by keys"
        keys="x"
        pressed={cross}
        onClick={toggle}
      />
      <IconButton quiet icon="dash-lg" label="Farther away" keys="-" onClick={() => looking.zoom(1 / ZOOM)} />
      <span className="percent">{percent} %</span>
      <IconButton quiet icon="plus-lg" label="Nearer" keys="+" onClick={() => looking.zoom(ZOOM)} />
      {looking.own && (
        <IconButton quiet icon="arrows-angle-contract" label="Fit the view" text="Fit" keys="0" onClick={looking.fit} />
      )}
    </div>
  );
}
