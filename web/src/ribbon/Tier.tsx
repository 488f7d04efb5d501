/**
 * One row of the chart: words or sounds, each from its boundary to the next. One tab stop: arrows go from entry to
 * entry, Alt with an arrow moves where one begins, and boundaries are dragged with the neighbours following.
 */
import { useShown } from "../ui/shown";
import { useMemo, useRef, useState } from "react";
import { get, motionOf, stop, submit, useWorkshop, type EntryRef, type Line, turnTo } from "../session";
import type { Timeline } from "../sheet/timeline";
import { usePull } from "../ui/pull";
import { across, inView, spansOf, type Span } from "./ribbon";

interface Props {
  line: Line;
  tier: EntryRef["tier"];
  time: Timeline;
  rate: number;
  snap: boolean;
}

/** Pixels that a hand may slip while it clicks. */
const SLACK = 3;
/** The least that a word is sure before it is marked. */
const UNSURE = 0.3;

/** Let an entry begin at another time, or so much later (seconds). */
export function moveBoundary(
  line: Line,
  tier: EntryRef["tier"],
  entry: string,
  where: { to: number } | { by: number },
  snap: boolean,
) {
  return submit({
    do: "move-boundary",
    voice: line.voice.id,
    tier,
    entry,
    ...where,
    snap,
    on_motion: snap ? get().motion : null,
    sound: snap ? line.placed.id : null,
  });
}

export function Tier({ line, tier, time, rate, snap }: Props) {
  const entry = useWorkshop((w) => w.entry);
  const chosen = entry?.tier === tier ? entry.id : null;
  const spans = useMemo(() => spansOf(line, tier), [line, tier]);
  const { shown: dragged, show, settle } = useShown<{ id: string; start: number } | null>(null, line.voice.chart);
  const row = useRef<HTMLDivElement>(null);
  const at = line.placed.at;
  const last = useWorkshop((w) => (motionOf(w)?.length ?? 1) - 1);
  const held = dragged
    ? spans.map((s, n) => ({
        ...s,
        start: s.id === dragged.id ? dragged.start : s.start,
        end: spans[n + 1]?.id === dragged.id ? dragged.start : s.end,
      }))
    : spans;
  const shown = inView(held, at, time, rate);
  const stopAt = chosen ?? shown[0]?.id ?? null;
  const noun = tier === "words" ? "word" : "sound";

  const focus = (id: string) =>
    requestAnimationFrame(() => row.current?.querySelector<HTMLElement>(`[data-entry="${id}"]`)?.focus());
  const choose = (span: Span | undefined, walk: boolean) => {
    if (!span) return;
    stop();
    turnTo({
      entry: { tier, id: span.id },
      frame: Math.max(0, Math.min(last, Math.round((at + span.start) * rate))),
      pose: null,
    });
    if (walk) focus(span.id);
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    const id = (event.target as HTMLElement).dataset.entry;
    const n = spans.findIndex((s) => s.id === id);
    if (n < 0) return;
    const way = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (way && event.altKey) {
      const by = snap ? 1 / rate : 0.01;
      void moveBoundary(line, tier, spans[n]!.id, { by: way * by }, snap);
    } else if (way) choose(spans[n + way], true);
    else if (event.key === "Home") choose(spans[0], true);
    else if (event.key === "End") choose(spans.at(-1), true);
    else if (event.key === "Enter" || event.key === "F2") document.getElementById("entry-label")?.focus();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    // The keys are the row's: one handler for all its entries.
    // eslint-disable-next-line jsx-a11y/interactive-supports-focus
    <div
      ref={row}
      className={`tier ${tier}`}
      role="listbox"
      aria-label={tier === "words" ? "Words" : "Sounds"}
      aria-orientation="horizontal"
      onKeyDown={onKeyDown}
    >
      {shown.map((span) => {
        const [x, end] = [across(at + span.start, time, rate), across(at + span.end, time, rate)];
        const unsure = span.text !== "" && span.sure < UNSURE;
        return (
          <div
            key={span.id}
            role="option"
            data-entry={span.id}
            aria-selected={span.id === chosen}
            aria-label={`${span.text || "pause"}, ${(at + span.start).toFixed(2)} to ${(at + span.end).toFixed(2)} s${
              unsure ? ", unsure" : ""
            }${span.guessed ? ", pronunciation guessed" : ""}`}
            tabIndex={span.id === stopAt ? 0 : -1}
            title={`${span.text || `no ${noun}`} · ${(span.end - span.start).toFixed(3)} s${
              unsure ? " · unsure" : ""
            }${span.guessed ? " · pronunciation guessed" : ""}`}
            className={`span${span.id === chosen ? " chosen" : ""}${span.text ? "" : " pause"}${
              unsure ? " unsure" : ""
            }${span.guessed ? " guessed" : ""}`}
            style={{ left: x, width: Math.max(1, end - x) }}
            onClick={() => choose(span, false)}
            onKeyDown={() => undefined}
          >
            {end - x > 6.2 * span.text.length + 2 && <span>{span.text}</span>}
            {unsure && end - x > 22 && <i className="bi bi-question" aria-hidden="true" />}
          </div>
        );
      })}
      {shown.map((span) =>
        span.start > 0 || across(at, time, rate) > 0 ? (
          <Boundary
            key={span.id}
            x={across(at + span.start, time, rate)}
            drag={(x) =>
              show(Math.abs(x) > SLACK ? { id: span.id, start: Math.max(0, span.start + x / time.step / rate) } : null)
            }
            done={(x) => {
              const by = x / time.step / rate;
              settle(Math.abs(x) > SLACK ? moveBoundary(line, tier, span.id, { by }, snap) : null);
            }}
            cancel={() => settle()}
          />
        ) : null,
      )}
    </div>
  );
}

/** The edge at which an entry begins, to be dragged. Keys reach it by the entry itself. */
function Boundary({
  x,
  drag,
  done,
  cancel,
}: {
  x: number;
  drag: (by: number) => void;
  done: (by: number) => void;
  cancel: () => void;
}) {
  const [from, setFrom] = useState<number | null>(null);
  const pull = usePull<HTMLDivElement>((event) => {
    const begin = event.clientX;
    setFrom(x);
    return {
      move: (e) => drag(e.clientX - begin),
      end: (e) => {
        setFrom(null);
        done(e.clientX - begin);
      },
      cancel: () => {
        setFrom(null);
        cancel();
      },
    };
  });
  return (
    <div
      className={`boundary${from !== null ? " pulled" : ""}`}
      style={{ left: x - 4 }}
      {...pull}
      role="presentation"
    />
  );
}
