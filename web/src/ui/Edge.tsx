/**
 * The edge of a panel that is dragged to make it larger or smaller (WAI-ARIA Authoring Practices 1.2, “Window
 * Splitter”): arrows move it, Home and End go to its ends, and where the panel can be folded away Enter or a double click
 * does that and brings it back. Where it was left is kept.
 */
import { useEffect, useState } from "react";
import { keep, kept } from "../kept";
import { usePull } from "./pull";

export interface Extent {
  size: number;
  /** Whether it was ever set by hand. */
  own: boolean;
  folded: boolean;
  put: (next: number) => void;
  fold?: () => void;
  least: number;
  most: number;
}

/** How large a panel is in screen pixels, kept by its name; as large as it starts until it is set by hand. */
export function useExtent(name: string, start: number, least: number, most: () => number, folds = false): Extent {
  const [told, setTold] = useState(() => Number(kept(name)) || null);
  const [folded, setFolded] = useState(() => folds && kept(`${name}-folded`) === "yes");
  const [room, setRoom] = useState(most);
  useEffect(() => {
    const measure = () => setRoom(most());
    window.addEventListener("resize", measure);
    return () => window.removeEventListener("resize", measure);
  }, [most]);
  const show = (away: boolean) => {
    if (folds) keep(`${name}-folded`, away ? "yes" : "no");
    setFolded(away);
  };
  const put = (next: number) => {
    const within = Math.round(Math.max(least, Math.min(next, room)));
    keep(name, String(within));
    setTold(within);
    if (folded) show(false);
  };
  const size = Math.max(least, Math.min(told ?? start, room));
  return { size, own: told !== null, folded, put, fold: folds ? () => show(!folded) : undefined, least, most: room };
}

interface Props {
  label: string;
  held: Extent;
  /** Where the panel grows to. */
  grows?: "up" | "left" | "right";
  className?: string;
}

/** Screen pixels that an arrow moves an edge. */
const STEP = 12;
const GROWS = { up: "ArrowUp", left: "ArrowLeft", right: "ArrowRight" } as const;
const SHRINKS = { up: "ArrowDown", left: "ArrowRight", right: "ArrowLeft" } as const;

export function Edge({ label, held, grows = "up", className = "" }: Props) {
  const { size, put, fold, folded, least, most } = held;
  const along = (e: { clientX: number; clientY: number }) =>
    grows === "up" ? -e.clientY : grows === "left" ? -e.clientX : e.clientX;
  const pull = usePull<HTMLDivElement>((event) => {
    const [start, from] = [folded ? 0 : size, along(event)];
    return {
      move: (e) => Math.abs(along(e) - from) > 2 && put(start + along(e) - from),
      cancel: () => put(start),
    };
  });
  return (
    // A splitter is a separator that takes the focus.
    <div
      className={`edge ${grows === "up" ? "" : "upright "}${className}`}
      role="separator"
      aria-orientation={grows === "up" ? "horizontal" : "vertical"}
      aria-label={label}
      aria-valuenow={folded ? 0 : size}
      aria-valuemin={fold ? 0 : least}
      aria-valuemax={most}
      aria-valuetext={folded ? "folded away" : `${size} pixels`}
      title={fold && (folded ? "Double click brings the panel back" : "Drag; a double click folds the panel away")}
      // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
      tabIndex={0}
      onDoubleClick={fold}
      onKeyDown={(e) => {
        const next = { [GROWS[grows]]: size + STEP, [SHRINKS[grows]]: size - STEP, Home: least, End: most }[e.key];
        if (next === undefined && !(fold && e.key === "Enter")) return;
        e.preventDefault();
        e.stopPropagation();
        if (next === undefined) fold!();
        else put(next);
      }}
      {...pull}
    />
  );
}
