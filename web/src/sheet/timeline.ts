/** How frames lie across the bottom of the bench: one scale and one scroll for the strip and the sheet. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { px } from "../ui/text";

export const NAMES = px(190);

export interface Timeline {
  /** Pixels of a frame. */
  step: number;
  length: number;
  /** Pixels across of all frames, and of the window on them. */
  width: number;
  room: number;
  /** Pixels down of that window. */
  tall: number;
  scroll: number;
  x: (frame: number) => number;
  frameAt: (x: number) => number;
  scrollTo: (x: number) => void;
  zoom: number;
  zoomBy: (factor: number, around?: number) => void;
}

/** The timeline of a window `room` pixels wide; `scroller` is the element that scrolls. A frame is at least so many
 * pixels wide; as wide as all of them fit the window, if that is wider. */
export function useTimeline(length: number, scroller: React.RefObject<HTMLElement | null>, least = 2): Timeline {
  const [room, setRoom] = useState(800);
  const [tall, setTall] = useState(200);
  const [zoom, setZoom] = useState(1);
  const [scroll, setScroll] = useState(0);
  const wanted = useRef<number | null>(null);
  const step = Math.max(least, room / length) * zoom;

  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const measure = () => {
      setRoom(Math.max(120, element.clientWidth - NAMES));
      setTall(element.clientHeight);
    };
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    const moved = () => setScroll(element.scrollLeft);
    element.addEventListener("scroll", moved, { passive: true });
    return () => {
      observer.disconnect();
      element.removeEventListener("scroll", moved);
    };
  }, [scroller]);

  const scrollTo = useCallback(
    (x: number) => {
      if (scroller.current) scroller.current.scrollLeft = x;
    },
    [scroller],
  );
  useEffect(() => {
    if (wanted.current === null) return;
    scrollTo(wanted.current);
    wanted.current = null;
  }, [zoom, scrollTo]);
  const zoomBy = useCallback(
    (factor: number, around = room / 2) => {
      setZoom((before) => {
        const next = Math.max(1, Math.min(before * factor, 64 / Math.max(least, room / length)));
        const at = (scroll + around) / before;
        wanted.current = Math.max(0, at * next - around);
        return next;
      });
    },
    [room, length, scroll, least],
  );
  return useMemo(
    () => ({
      step,
      length,
      room,
      tall,
      scroll,
      zoom,
      width: step * length,
      x: (frame: number) => (frame + 0.5) * step,
      frameAt: (x: number) => Math.max(0, Math.min(length - 1, Math.floor(x / step))),
      scrollTo,
      zoomBy,
    }),
    [step, length, room, tall, scroll, zoom, scrollTo, zoomBy],
  );
}

/** The wheel with Ctrl makes the frames of a timeline wider or narrower, about where the pointer is. */
export function useZoomingWheel(scroller: React.RefObject<HTMLElement | null>, time: Timeline): void {
  const latest = useRef(time);
  latest.current = time;
  useEffect(() => {
    const element = scroller.current;
    const wheel = (event: WheelEvent) => {
      if (!element || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      const across = event.clientX - element.getBoundingClientRect().left - NAMES;
      latest.current.zoomBy(Math.exp(-event.deltaY * 0.002), across);
    };
    element?.addEventListener("wheel", wheel, { passive: false });
    return () => element?.removeEventListener("wheel", wheel);
  }, [scroller]);
}

/** Every how many frames the ruler is marked. */
export const marksEvery = (step: number): number =>
  [1, 2, 4, 6, 12, 24, 48, 96, 240, 480, 960].find((n) => n * step >= 30) ?? 2400;
