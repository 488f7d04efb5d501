/** The ladder of classic practice: a rung for every in-between, where it falls, dragged to where it should. */
import { useShown } from "../ui/shown";
import { useRef, useState } from "react";
import { submit, type KeyRef } from "../session";
import { usePull } from "../ui/pull";
import type { Gap } from "../wire/types";

const [WIDTH, LEFT, SPAN] = [224, 12, 200];

interface Props {
  gap: Gap;
  /** The keys that the chart is set on, and the one whose gap is shown. */
  refs: KeyRef[];
  of: KeyRef;
  motion: string;
}

export function Ladder({ gap, refs, of, motion }: Props) {
  const [from, to, progress] = gap;
  const area = useRef<SVGSVGElement>(null);
  const { shown: drag, show, settle } = useShown<{ tick: number; to: number } | null>(null, gap);
  const [snap, setSnap] = useState(false);
  const at = (p: number) => LEFT + p * SPAN;
  const put = (tick: number, to: number) =>
    submit({ do: "chart-gaps", motion, keys: refs, of, tick, to: Math.max(-0.5, Math.min(1.5, to)), snap });
  const pull = usePull<SVGSVGElement>((event) => {
    const tick = Number((event.target as Element).closest("[data-tick]")?.getAttribute("data-tick") ?? 0);
    if (!tick) return null;
    const box = area.current!.getBoundingClientRect();
    const scale = WIDTH / box.width;
    const grabbed = event.clientX - (box.left + at(progress[tick]!) / scale);
    let now: number | null = null;
    return {
      move(e) {
        now = ((e.clientX - grabbed - box.left) * scale - LEFT) / SPAN;
        show({ tick, to: now });
      },
      end() {
        settle(now !== null ? put(tick, now) : null);
      },
      cancel: () => settle(),
    };
  });
  const rungs = progress.slice(1).map((p, i) => (drag?.tick === i + 1 ? drag.to : p));
  return (
    <>
      <svg
        ref={area}
        viewBox={`0 0 ${WIDTH} 58`}
        className="ladder"
        role="group"
        aria-label={`In-betweens from frame ${from + 1} to ${to + 1}`}
        {...pull}
      >
        <line x1={LEFT} x2={LEFT + SPAN} y1={24} y2={24} stroke="var(--ink)" strokeWidth={1.4} />
        {[1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4].map((p) => (
          <line key={p} x1={at(p)} x2={at(p)} y1={34} y2={38} stroke="var(--faint)" strokeWidth={1} />
        ))}
        {rungs.map((p, i) => (
          <g
            key={i}
            data-tick={i + 1}
            className="rung"
            role="slider"
            tabIndex={0}
            aria-label={`Frame ${from + i + 2}`}
            aria-valuenow={Math.round(p * 100)}
            aria-valuemin={-50}
            aria-valuemax={150}
            aria-valuetext={`${Math.round(p * 100)} %`}
            onKeyDown={(e) => {
              const by = { ArrowLeft: -0.01, ArrowRight: 0.01, ArrowDown: -0.01, ArrowUp: 0.01 }[e.key];
              if (by === undefined) return;
              e.preventDefault();
              put(i + 1, p + by * (e.shiftKey ? 10 : 1));
            }}
          >
            <rect x={at(p) - 6} y={6} width={12} height={36} fillOpacity={0.01} />
            <line
              x1={at(p)}
              x2={at(p)}
              y1={12}
              y2={36}
              stroke={drag?.tick === i + 1 ? "var(--violet)" : "var(--ink)"}
              strokeWidth={2}
            />
            <title>{`Frame ${from + i + 2}: ${Math.round(p * 100)} %`}</title>
          </g>
        ))}
        <circle cx={at(0)} cy={24} r={5} fill="var(--violet)" />
        <circle cx={at(1)} cy={24} r={5} fill="var(--card)" stroke="var(--ink)" strokeWidth={2} />
        {numbered(rungs).map(([i, p]) => (
          <text key={i} x={at(p)} y={9} fontSize={9.5} textAnchor="middle" fill="var(--faint)">
            {Math.round(p * 100)}
          </text>
        ))}
        <text x={LEFT} y={54} fontSize={10.5} textAnchor="middle" fill="var(--faint)">
          {from + 1}
        </text>
        <text x={LEFT + SPAN} y={54} fontSize={10.5} textAnchor="middle" fill="var(--faint)">
          {to + 1}
        </text>
      </svg>
      <div className="form-check form-switch small mb-0">
        <input
          id="snap-ticks"
          type="checkbox"
          className="form-check-input"
          checked={snap}
          onChange={(e) => setSnap(e.target.checked)}
        />
        <label htmlFor="snap-ticks" className="form-check-label">
          Ticks snap to halves and thirds
        </label>
      </div>
    </>
  );
}

/** The rungs whose percent is written above them: those that leave room for it. */
function numbered(rungs: number[]): [number, number][] {
  const found: [number, number][] = [];
  let last = -Infinity;
  for (const [i, p] of [...rungs.entries()].sort((a, b) => a[1] - b[1])) {
    if ((p - last) * SPAN < 19) continue;
    found.push([i, p]);
    last = p;
  }
  return found;
}
