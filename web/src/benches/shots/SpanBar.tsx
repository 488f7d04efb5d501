/** A span as a bar on its row: moved by its middle, trimmed at its ends. */
import { useShown } from "../../ui/shown";
import { useRef } from "react";
import { get, goTo, useWorkshop, pickOut } from "../../session";
import type { Timeline } from "../../sheet/timeline";
import { usePull } from "../../ui/pull";
import type { Motion, Span } from "../../wire/types";
import { nudgeSpan, spanEnd } from "./commands";

interface Props {
  cast: string;
  span: Span;
  time: Timeline;
  top: number;
  height: number;
}

/** What is seen of a span while a hand has it. */
function trimmed(span: Span, end: "start" | "both" | "end", frames: number): Span {
  if (end === "both") return { ...span, start: Math.max(0, span.start + frames) };
  if (end === "end") return { ...span, frames: Math.max(1, span.frames + frames) };
  const by = Math.max(-span.start, Math.min(frames, span.frames - 1));
  return { ...span, start: span.start + by, frames: span.frames - by, skip: span.skip + by };
}

/** Pixels at either end by which a span is trimmed. */
const END = 7;

export function SpanBar({ cast, span, time, top, height }: Props) {
  const motion = useWorkshop((w) => w.documents[span.motion]) as Motion | undefined;
  const chosen = useWorkshop((w) => w.picked?.kind === "span" && w.picked.id === span.id && w.picked.cast === cast);
  const rounds = useWorkshop((w) => w.shotPlan?.rounds?.[cast]?.[span.id]);
  const { shown: now, show, settle } = useShown(span, span);
  const bar = useRef<HTMLButtonElement>(null);

  const put = (end: "start" | "both" | "end", by: number) => nudgeSpan(cast, span.id, end, by);
  const pull = usePull<HTMLButtonElement>((event) => {
    event.stopPropagation();
    const box = event.currentTarget.getBoundingClientRect();
    const from = event.clientX;
    const inside = box.width > 3 * END;
    const end = inside && from - box.left < END ? "start" : inside && box.right - from < END ? "end" : "both";
    const before = get().picked;
    pickOut({ picked: { kind: "span", cast, id: span.id }, shotKeys: [] });
    const by = (e: { clientX: number }) => Math.round((e.clientX - from) / time.step);
    const base = now;
    return {
      move: (e) => show(by(e) ? trimmed(base, end, by(e)) : base),
      end: (e) => {
        settle(by(e) ? put(end, by(e)) : null);
        if (!by(e) && before?.kind === "span" && before.id === span.id) {
          const lane = (e.target as HTMLElement).closest(".lane")?.getBoundingClientRect();
          if (lane) goTo(time.frameAt(e.clientX - lane.left + time.scroll));
        }
      },
      cancel: () => settle(),
    };
  });
  const left = now.start * time.step - time.scroll;
  const width = now.frames * time.step;
  const speed = now.speed;
  const [first, every] = rounds ?? [0, 0];
  const seams: number[] = [];
  if (every * time.step > 5)
    for (let f = first + span.skip - now.skip; f < now.frames; f += every) if (f > 0) seams.push(f);
  const said = [
    motion?.name ?? "?",
    speed !== 100 && `${speed} %`,
    now.reverse && "reversed",
    now.play === "hold" && "held",
    now.play === "once" && "once",
  ].filter((s): s is string => !!s);
  return (
    <button
      ref={bar}
      type="button"
      className={`span-bar ${now.play}${chosen ? " chosen" : ""}${now.row > 0 ? " upper" : ""}`}
      style={{ left, width: Math.max(4, width), top, height }}
      aria-label={`${said.join(" ")} from frame ${now.start + 1} to ${spanEnd(now)}`}
      aria-pressed={chosen}
      title={`${motion?.name}: frames ${now.start + 1}–${spanEnd(now)}. Drag it, or trim its ends; Alt with the arrows moves it, with Shift its end`}
      onKeyDown={(e) => {
        if (!e.altKey || (e.key !== "ArrowLeft" && e.key !== "ArrowRight")) return;
        e.preventDefault();
        e.stopPropagation();
        put(e.shiftKey ? "end" : "both", e.key === "ArrowLeft" ? -1 : 1);
      }}
      onClick={(e) => e.detail === 0 && pickOut({ picked: { kind: "span", cast, id: span.id }, shotKeys: [] })}
      {...pull}
    >
      {now.blend > 0 && <i className="blend" style={{ width: now.blend * time.step }} />}
      {now.out > 0 && now.row > 0 && <i className="blend out" style={{ width: now.out * time.step }} />}
      {seams.map((f) => (
        <i key={f} className="seam" style={{ left: f * time.step }} />
      ))}
      <span>
        {said[0]}
        {said.slice(1).map((s) => (
          <em key={s}> {s}</em>
        ))}
      </span>
    </button>
  );
}
