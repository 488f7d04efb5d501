/** The stage: the paper with the puppet on it, an overlay of handles, and the hand upon both. */
import { distance } from "../geometry";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import type { Point } from "../wire/types";
import { set, useProduction, useWorkshop } from "../session";
import { measure } from "./measure";
import { usePainting, type View } from "./painting";
import type { Box } from "./scene";
import { holding } from "../ui/shortcuts";
import { hitOf, type Drag, type Hand, type Tool } from "./tool";

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
  pointer: number;
  pan: boolean;
  from: Point;
  moved: boolean;
  drag: Drag | null;
  release: () => void;
}

const clamp = (v: number, low: number, high: number) => Math.max(low, Math.min(high, v));

export function Stage({ tool, overlay, children, tried, focus, label }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState<[number, number]>([0, 0]);
  const [view, setView] = useState<View | null>(null);
  const production = useProduction();
  const isolated = useWorkshop((w) => w.isolated);
  const [width, height] = [production?.width ?? 1280, production?.height ?? 720];
  const fitted = useMemo<View>(() => {
    const [l, t, r, b] = focus ?? [0, 0, width, height];
    const scale = Math.max(0.02, Math.min((size[0] - 24) / (r - l), (size[1] - 24) / (b - t)));
    return { scale, x: (size[0] - (l + r) * scale) / 2, y: (size[1] - (t + b) * scale) / 2 };
  }, [size, width, height, focus]);
  const shown = view ?? fitted;

  useEffect(() => {
    const element = box.current!;
    const observer = new ResizeObserver(() => setSize([element.clientWidth, element.clientHeight]));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  usePainting(canvas, size, shown, width, height, production?.paper ?? "#ffffffff");

  const toStage = useCallback(
    (event: { clientX: number; clientY: number }): Point => {
      const place = box.current!.getBoundingClientRect();
      return [
        (event.clientX - place.left - shown.x) / shown.scale,
        (event.clientY - place.top - shown.y) / shown.scale,
      ];
    },
    [shown],
  );
  const to = useCallback((p: Point): Point => [p[0] * shown.scale + shown.x, p[1] * shown.scale + shown.y], [shown]);

  /** The hand upon the stage: one pointer, from when it goes down until it goes up, is lost or taken back. */
  const grip = useRef<Grip | null>(null);
  const hand = (event: React.PointerEvent): Hand => {
    const element = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-handle]");
    return {
      at: toStage(event),
      hit: hitOf(element?.getAttribute("data-handle")),
      shift: event.shiftKey,
      alt: event.altKey,
      scale: shown.scale,
    };
  };

  const letGo = useCallback((pointer?: number) => {
    const held = grip.current;
    if (!held || (pointer !== undefined && held.pointer !== pointer)) return;
    grip.current = null;
    held.release();
    held.drag?.cancel();
  }, []);
  const down = (event: React.PointerEvent) => {
    if ((event.target as HTMLElement).closest("button, a, input, select, label")) return;
    const pan = event.button === 1 || event.button === 2;
    if ((!pan && event.button !== 0) || grip.current) return;
    box.current!.focus({ preventScroll: true });
    try {
      box.current!.setPointerCapture(event.pointerId);
    } catch {
      // A pointer that is already gone can't be held, and needs no holding.
    }
    const drag = pan ? null : tool.begin(hand(event));
    const release = holding(() => letGo());
    grip.current = { pointer: event.pointerId, pan, from: [event.clientX, event.clientY], moved: false, drag, release };
    event.preventDefault();
  };
  const move = (event: React.PointerEvent) => {
    const held = grip.current;
    if (held?.pointer !== event.pointerId) return;
    if (held.pan) {
      setView({ ...shown, x: shown.x + event.clientX - held.from[0], y: shown.y + event.clientY - held.from[1] });
      held.from = [event.clientX, event.clientY];
      return;
    }
    if (!held.moved && distance([event.clientX, event.clientY], held.from) < 3) return;
    held.moved = true;
    measure("pointer");
    held.drag?.move(hand(event));
  };
  const up = (event: React.PointerEvent) => {
    const held = grip.current;
    if (held?.pointer !== event.pointerId) return;
    grip.current = null;
    held.release();
    held.drag?.end(hand(event), held.moved);
  };
  // A tool that is put away takes its drag with it.
  useEffect(() => () => letGo(), [tool, letGo]);

  useEffect(() => {
    const element = box.current!;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const place = element.getBoundingClientRect();
      const [px, py] = [event.clientX - place.left, event.clientY - place.top];
      setView((before) => {
        const v = before ?? fitted;
        const scale = clamp(v.scale * Math.exp(-event.deltaY * 0.0015), 0.05, 40);
        const grown = scale / v.scale;
        return { scale, x: px - (px - v.x) * grown, y: py - (py - v.y) * grown };
      });
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => {
      element.removeEventListener("wheel", wheel);
    };
  }, [fitted]);

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
      onPointerCancel={(e) => letGo(e.pointerId)}
      onLostPointerCapture={(e) => letGo(e.pointerId)}
      onContextMenu={(e) => e.preventDefault()}
    >
      <canvas ref={canvas} />
      <svg aria-hidden="true">{overlay?.(to, shown)}</svg>
      {children}
      {isolated && (
        <button
          type="button"
          className="icon-btn card-sheet position-absolute"
          style={{ left: 8, bottom: 8 }}
          onClick={() => set({ isolated: false })}
        >
          <i className="bi bi-zoom-in" aria-hidden="true" /> Shown alone: show all
        </button>
      )}
      {view && (
        <button
          type="button"
          className="icon-btn card-sheet position-absolute"
          style={{ right: 8, bottom: 8 }}
          onClick={() => setView(null)}
        >
          <i className="bi bi-arrows-angle-contract" aria-hidden="true" /> Fit
        </button>
      )}
    </div>
  );
}
