/**
 * The edge of a panel that is dragged to make it higher or lower (WAI-ARIA Authoring Practices 1.2, “Window
 * Splitter”): arrows move it, Home and End go to its ends. Where it was left is kept.
 */
import { useEffect, useState } from "react";
import { keep, kept } from "../session/kept";
import { usePull } from "./pull";

export function useHeight(name: string, start: number, least: number, most: () => number) {
  const key = `height-${name}`;
  const [told, setTold] = useState(() => Number(kept(key)) || start);
  const [room, setRoom] = useState(most);
  useEffect(() => {
    const measure = () => setRoom(most());
    window.addEventListener("resize", measure);
    return () => window.removeEventListener("resize", measure);
  }, [most]);
  const height = Math.max(least, Math.min(told, room));
  const put = (next: number) => {
    const within = Math.round(Math.max(least, Math.min(next, room)));
    keep(key, String(within));
    setTold(within);
  };
  return { height, put, least, most: room };
}

export function Edge({ label, held }: { label: string; held: ReturnType<typeof useHeight> }) {
  const { height, put, least, most } = held;
  const pull = usePull<HTMLDivElement>((event) => {
    const [start, y] = [height, event.clientY];
    return { move: (e) => put(start + y - e.clientY), cancel: () => put(start) };
  });
  return (
    // A splitter is a separator that takes the focus.
    <div
      className="edge"
      role="separator"
      aria-orientation="horizontal"
      aria-label={label}
      aria-valuenow={height}
      aria-valuemin={least}
      aria-valuemax={most}
      // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
      tabIndex={0}
      onKeyDown={(e) => {
        const next = { ArrowUp: height + 12, ArrowDown: height - 12, Home: least, End: most }[e.key];
        if (next === undefined) return;
        e.preventDefault();
        e.stopPropagation();
        put(next);
      }}
      {...pull}
    />
  );
}
