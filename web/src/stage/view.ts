/** How the stage is looked at: fitted, zoomed and shifted, by the wheel, buttons, keys and two fingers. */
import { useCallback, useEffect, useMemo, useState, type RefObject } from "react";
import type { Point } from "../wire/types";
import type { View } from "./painting";
import type { Box } from "./scene";

const LEAST = 0.05;
const MOST = 40;
/** Screen pixels around what is fitted. */
const MARGIN = 12;

/** A view zoomed by a factor about a place on the screen, and then shifted. */
export function zoomed(view: View, by: number, [px, py]: Point, [dx, dy]: Point = [0, 0]): View {
  const scale = Math.max(LEAST, Math.min(MOST, view.scale * by));
  const grown = scale / view.scale;
  return { scale, x: px - (px - view.x) * grown + dx, y: py - (py - view.y) * grown + dy };
}

/** Where an event is in an element, counted from inside its border, as what lies in it is placed. */
export function within(element: HTMLElement, event: { clientX: number; clientY: number }): Point {
  const place = element.getBoundingClientRect();
  return [event.clientX - place.left - element.clientLeft, event.clientY - place.top - element.clientTop];
}

/** And where a place in it is in the window. */
export function without(element: HTMLElement, [x, y]: Point): Point {
  const place = element.getBoundingClientRect();
  return [place.left + element.clientLeft + x, place.top + element.clientTop + y];
}

export interface Looking {
  shown: View;
  /** Whether it is another than the fitted one. */
  own: boolean;
  /** About the middle, or a place on the screen; and shifted at the same time. */
  zoom: (by: number, at?: Point, shift?: Point) => void;
  shift: (dx: number, dy: number) => void;
  fit: () => void;
}

/** The view on a stage of this size in screen pixels that shows a box, or the whole paper. */
export function useLooking(
  box: RefObject<HTMLElement | null>,
  size: [number, number],
  [l, t, r, b]: Box | [number, number, number, number],
): Looking {
  const [view, setView] = useState<View | null>(null);
  const fitted = useMemo<View>(() => {
    const scale = Math.max(0.02, Math.min((size[0] - 2 * MARGIN) / (r - l), (size[1] - 2 * MARGIN) / (b - t)));
    return { scale, x: (size[0] - (l + r) * scale) / 2, y: (size[1] - (t + b) * scale) / 2 };
  }, [size, l, t, r, b]);
  const zoom = useCallback(
    (by: number, at: Point = [size[0] / 2, size[1] / 2], shift?: Point) =>
      setView((before) => zoomed(before ?? fitted, by, at, shift)),
    [fitted, size],
  );
  const shift = useCallback(
    (dx: number, dy: number) =>
      setView((before) => {
        const v = before ?? fitted;
        return { ...v, x: v.x + dx, y: v.y + dy };
      }),
    [fitted],
  );
  const fit = useCallback(() => setView(null), []);
  useEffect(() => {
    const element = box.current!;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      zoom(Math.exp(-event.deltaY * 0.0015), within(element, event));
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [box, zoom]);
  return useMemo(
    () => ({ shown: view ?? fitted, own: view !== null, zoom, shift, fit }),
    [view, fitted, zoom, shift, fit],
  );
}

/** Two fingers on the stage: what lies under them stays under them. Tells of each touch whether it is one of them. */
export class Pinch {
  private readonly down = new Map<number, Point>();
  /** From the second finger on until none is left, no finger is a hand. */
  private on = false;

  begins(pointer: number, at: Point): boolean {
    this.down.set(pointer, at);
    this.on ||= this.down.size > 1;
    return this.on;
  }

  /** How a finger that went on changes the view; null if it is a hand. */
  moves(pointer: number, at: Point): { by: number; about: Point; shift: Point } | null {
    const before = this.down.get(pointer);
    if (!before) return null;
    const other = [...this.down].find(([p]) => p !== pointer)?.[1];
    this.down.set(pointer, at);
    if (!this.on || !other) return null;
    const apart = (p: Point) => Math.hypot(p[0] - other[0], p[1] - other[1]);
    const about: Point = [(before[0] + other[0]) / 2, (before[1] + other[1]) / 2];
    return {
      by: Math.max(0.2, apart(at)) / Math.max(0.2, apart(before)),
      about,
      shift: [(at[0] - before[0]) / 2, (at[1] - before[1]) / 2],
    };
  }

  ends(pointer: number): void {
    this.down.delete(pointer);
    if (!this.down.size) this.on = false;
  }
}
