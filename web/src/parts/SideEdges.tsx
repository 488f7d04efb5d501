/** The edges between the columns of a bench: how wide each column is, and whether it is folded away, kept for the bench. */
import { useEffect } from "react";
import type { Bench } from "../session";
import { Edge, useExtent, type Extent } from "../ui/Edge";

/** Screen pixels that a column has at least, and that are left for the stage. */
const LEAST = 150;
const STAGE = 340;
/** How wide columns come, in screen pixels at the usual size of text. */
const START: Partial<Record<Bench, [number, number]>> = {
  pieces: [236, 252],
  rig: [236, 252],
  motion: [236, 252],
  voice: [262, 400],
  shots: [210, 276],
};
const most = () => Math.max(LEAST, Math.min(560, (window.innerWidth - STAGE) / 2));

export function SideEdges({ bench }: { bench: Bench }) {
  const start = START[bench];
  return start ? <Both key={bench} bench={bench} start={start} /> : null;
}

function Both({ bench, start }: { bench: Bench; start: [number, number] }) {
  const left = useExtent(`width-left-${bench}`, start[0], LEAST, most, true);
  const right = useExtent(`width-right-${bench}`, start[1], LEAST, most, true);
  const [l, r] = [width(left), width(right)];
  useEffect(() => {
    const frame = document.querySelector<HTMLElement>(".workshop")!;
    const put = (name: string, value: string | null) =>
      value === null ? frame.style.removeProperty(name) : frame.style.setProperty(name, value);
    put("--left-own", l);
    put("--right-own", r);
    frame.classList.toggle("no-left", left.folded);
    frame.classList.toggle("no-right", right.folded);
    return () => {
      put("--left-own", null);
      put("--right-own", null);
      frame.classList.remove("no-left", "no-right");
    };
  }, [l, r, left.folded, right.folded]);
  return (
    <>
      <Edge label="Width of the left column" held={left} grows="right" className="of-left" />
      <Edge label="Width of the right column" held={right} grows="left" className="of-right" />
    </>
  );
}

const width = (held: Extent): string | null => (held.folded ? "0px" : held.own ? `${held.size}px` : null);
