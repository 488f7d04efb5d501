/** The mouths as they are keyed, on the frames of the ribbon; and below them blinks and accents. */
import { useShown } from "../ui/shown";
import { useMemo } from "react";
import { scrub, submit, useWorkshop, pickOut } from "../session";
import type { Timeline } from "../sheet/timeline";
import { usePull } from "../ui/pull";
import { MouthThumb, mouthsByValue } from "../parts/MouthThumb";
import type { Exposed, Motion, Mouth, MouthChart, Puppet } from "../wire/types";
import { mouthRuns, type MouthRun } from "./ribbon";

export const channelOf = (chart: MouthChart): string =>
  chart.piece ? `${chart.piece}.show` : `${chart.dial ?? ""}.dial`;

interface Props {
  puppet: Puppet;
  motion: Motion;
  chart: MouthChart;
  exposed: Exposed | undefined;
  time: Timeline;
  height: number;
}

export function MouthRow({ puppet, motion, chart, exposed, time, height }: Props) {
  const channel = channelOf(chart);
  const keys = motion.channels?.[channel]?.keys;
  const length = motion.length;
  const runs = useMemo(() => mouthRuns((keys ?? {}) as Parameters<typeof mouthRuns>[0], length), [keys, length]);
  const of = useMemo(() => mouthsByValue(chart), [chart]);
  const chosen = useWorkshop((w) => w.keys);
  const { shown: dragged, show, settle } = useShown<{ start: number; to: number } | null>(null, keys);
  const x = (frame: number) => frame * time.step - time.scroll;
  const shown = runs.filter((r) => x(r.end) >= 0 && x(r.start) <= time.room);
  const isChosen = (r: MouthRun) => chosen.some((k) => k.channel === channel && k.frame === r.start);
  const tab = shown.find(isChosen) ?? shown[0];
  const choose = (r: MouthRun) => {
    pickOut({ keys: [{ channel, frame: r.start }], poses: [], entry: null });
    scrub(r.start);
  };
  const move = (r: MouthRun, to: number) => {
    return to === r.start
      ? null
      : submit({ do: "move-keys", motion: motion.id, keys: [{ channel, frame: r.start }], by: to - r.start });
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    const start = Number((event.target as HTMLElement).dataset.run);
    const n = runs.findIndex((r) => r.start === start);
    const way = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (n < 0 || !way) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.altKey) {
      void move(runs[n]!, runs[n]!.start + way);
      return;
    }
    const next = runs[n + way];
    if (!next) return;
    choose(next);
    const row = event.currentTarget;
    requestAnimationFrame(() => row.querySelector<HTMLElement>(`[data-run="${next.start}"]`)?.focus());
  };
  const why = (r: MouthRun): string => exposed?.runs.find((e) => e.start <= r.start && r.start < e.end)?.why ?? "";
  return (
    // The keys are the row's: one handler for all its mouths.
    // eslint-disable-next-line jsx-a11y/interactive-supports-focus
    <div
      className="tier mouths"
      role="listbox"
      aria-label="Mouths"
      aria-orientation="horizontal"
      style={{ height }}
      onKeyDown={onKeyDown}
    >
      {shown.map((r) => {
        const mouth = of.get(r.value);
        const start = dragged?.start === r.start ? dragged.to : r.start;
        const end = dragged && dragged.start === r.end ? dragged.to : r.end;
        const width = (end - start) * time.step;
        const reason = r.hand ? "put in by hand" : why(r);
        return (
          <div
            key={r.start}
            role="option"
            data-run={r.start}
            data-mouth={mouth?.name ?? ""}
            aria-selected={isChosen(r)}
            aria-label={`${mouth?.name ?? "another drawing"}, frames ${r.start + 1} to ${r.end}. ${reason}`}
            tabIndex={r === tab ? 0 : -1}
            title={`${mouth?.name ?? "another drawing"} · frames ${r.start + 1}–${r.end}${reason ? ` · ${reason}` : ""}`}
            className={`run${isChosen(r) ? " chosen" : ""}${r.hand ? " hand" : ""}`}
            style={{ left: x(start), width: Math.max(2, width - 1) }}
            onClick={() => choose(r)}
            onKeyDown={() => undefined}
          >
            {mouth && width <= 24 && <Glyph mouth={mouth} width={width} height={height - 6} />}
            {mouth && width > 24 && (
              <MouthThumb
                puppet={puppet}
                chart={chart}
                value={r.value}
                width={Math.min(34, width - 4)}
                height={height - 6}
              />
            )}
            {width > 74 && <span>{mouth?.name}</span>}
          </div>
        );
      })}
      {shown.map((r) => (
        <RunEdge
          key={r.start}
          x={x(dragged?.start === r.start ? dragged.to : r.start)}
          step={time.step}
          drag={(by) => show({ start: r.start, to: Math.max(0, Math.min(length - 1, r.start + by)) })}
          done={(by) => settle(move(r, Math.max(0, Math.min(length - 1, r.start + by))))}
          cancel={() => settle()}
        />
      ))}
    </div>
  );
}

/** A mouth as a sign where there is no room for its drawing: as high as it is open, as wide as it is wide. */
function Glyph({ mouth, width, height }: { mouth: Mouth; width: number; height: number }) {
  const [opening, wide, round] = mouth.look;
  const [x, y] = [(width - 5) / 2, height / 2];
  return (
    <svg width={Math.max(1, width - 5)} height={height} aria-hidden="true" className="glyph">
      <ellipse
        cx={x}
        cy={y}
        rx={Math.max(1, x * (0.35 + 0.65 * wide!))}
        ry={Math.max(0.8, (y - 3) * opening!)}
        strokeWidth={1 + 1.5 * round!}
      />
    </svg>
  );
}

function RunEdge({
  x,
  step,
  drag,
  done,
  cancel,
}: {
  x: number;
  step: number;
  drag: (frames: number) => void;
  done: (frames: number) => void;
  cancel: () => void;
}) {
  const pull = usePull<HTMLDivElement>((event) => {
    const begin = event.clientX;
    const by = (e: React.PointerEvent) => Math.round((e.clientX - begin) / step);
    return { move: (e) => drag(by(e)), end: (e) => done(by(e)), cancel };
  });
  return <div className="boundary" style={{ left: x - 4 }} {...pull} role="presentation" />;
}

/** Where recipes of the face have keys: blinks as lashes, accents as strokes as high as they are strong. */
export function FaceRow({
  motion,
  exposed,
  time,
  rate,
  height,
}: {
  motion: Motion;
  exposed: Exposed | undefined;
  time: Timeline;
  rate: number;
  height: number;
}) {
  const blinks = Object.values(motion.recipes ?? {}).filter((r) => r.kind === "blink");
  const shut = blinks.flatMap((r) => {
    const keys = motion.channels?.[`${r.dial}.dial`]?.keys ?? {};
    return Object.entries(keys)
      .filter(([, k]) => k.value[0] === r.shut)
      .map(([f]) => Number(f));
  });
  const x = (frame: number) => time.x(frame) - time.scroll;
  const stressed = (exposed?.accents ?? []).flatMap(([sound, at, word, size]) => {
    const placed = motion.sounds?.[sound as string];
    return placed ? [{ at: placed.at + (at as number), word: word as string, size: size as number }] : [];
  });
  return (
    <svg className="face-row" width={time.room} height={height} role="img" aria-label="Blinks and accents">
      {shut.map((f) => (
        <path key={f} className="lash" d={`M${x(f) - 5} 5q5 6 10 0m-8 3l-2 3m5 -2v4m3 -5l2 3`} data-blink={f} />
      ))}
      {stressed.map((a) => {
        const at = a.at * rate * time.step - time.scroll;
        return (
          <g key={a.at} data-accent={a.word}>
            <title>{`accent on “${a.word}”`}</title>
            <path className="accent" d={`M${at} ${height - 2}v${-(height - 4) * a.size}m-3 3l3 -3l3 3`} />
          </g>
        );
      })}
    </svg>
  );
}
