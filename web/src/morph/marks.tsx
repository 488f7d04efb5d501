/** Match marks as they are seen: a number in a shape of its own colour, the same on both drawings. */
import type { Point } from "../wire/types";

const COLOURS = [1, 2, 3, 4, 5, 6].map((n) => `var(--mark-${n})`);
const R = 9;
/** Outlines of the shapes, about nought. */
const SHAPES = [
  `M${-R} 0a${R} ${R} 0 1 0 ${2 * R} 0a${R} ${R} 0 1 0 ${-2 * R} 0Z`,
  `M-8 -8H8V8H-8Z`,
  `M0 -11L11 0L0 11L-11 0Z`,
  `M0 -11L10.5 7H-10.5Z`,
  `M-5.5 -9.5H5.5L11 0L5.5 9.5H-5.5L-11 0Z`,
  `M-10.5 -7H10.5L0 11Z`,
] as const;

export const colourOf = (n: number): string => COLOURS[n % COLOURS.length]!;

export function MarkSign({ n, at, chosen, open }: { n: number; at: Point; chosen: boolean; open?: boolean }) {
  return (
    <g transform={`translate(${at[0]} ${at[1]})`} className={`match-mark${chosen ? " chosen" : ""}`} data-mark={n + 1}>
      {chosen && <circle r={15} fill="none" stroke="var(--halo)" strokeWidth={5} />}
      {chosen && <circle r={15} fill="none" stroke={colourOf(n)} strokeWidth={2.5} strokeDasharray="4 3" />}
      <path d={SHAPES[n % SHAPES.length]} fill="var(--bone)" stroke="var(--bone)" strokeWidth={5} />
      <path
        d={SHAPES[n % SHAPES.length]}
        fill={open ? "var(--bone)" : colourOf(n)}
        stroke={colourOf(n)}
        strokeWidth={2}
      />
      <text y={4} textAnchor="middle" fontSize={11} fontWeight={700} fill={open ? colourOf(n) : "var(--halo)"}>
        {n + 1}
      </text>
    </g>
  );
}

/** The same beside words. */
export const MarkChip = ({ n }: { n: number }) => (
  <svg width={28} height={28} viewBox="-14 -14 28 28" aria-hidden="true" className="flex-none">
    <MarkSign n={n} at={[0, 0]} chosen={false} />
  </svg>
);
