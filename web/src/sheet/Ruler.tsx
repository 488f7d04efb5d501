/** The frames across the top, and the playhead on them. */
import { memo, useEffect, useRef } from "react";
import { get, goTo, scrub as goHearing, useWorkshop } from "../session";
import { usePull } from "../ui/pull";
import { px } from "../ui/text";
import { RULER } from "./draw";
import { marksEvery, NAMES, type Timeline } from "./timeline";

export const Ruler = memo(function Ruler({ time }: { time: Timeline }) {
  const scrub = (event: React.PointerEvent<Element>) => {
    const box = event.currentTarget.closest(".ruler")!.getBoundingClientRect();
    goHearing(time.frameAt(event.clientX - box.left + time.scroll));
  };
  const pull = usePull<HTMLDivElement>((event) => {
    const before = get().frame;
    scrub(event);
    return { move: (e) => scrub(e as React.PointerEvent<Element>), cancel: () => goTo(before) };
  });
  const every = marksEvery(time.step);
  const [from, to] = [Math.floor(time.scroll / time.step), Math.ceil((time.scroll + time.room) / time.step)];
  const marks: number[] = [];
  for (let f = Math.floor(from / every) * every; f <= Math.min(to, time.length - 1); f += every) marks.push(f);
  const shown = useWorkshop((w) => (w.playing ? null : w.frame));
  const keys = (event: React.KeyboardEvent) => {
    const at = get().frame;
    const next = {
      ArrowLeft: at - (event.shiftKey ? 10 : 1),
      ArrowDown: at - (event.shiftKey ? 10 : 1),
      ArrowRight: at + (event.shiftKey ? 10 : 1),
      ArrowUp: at + (event.shiftKey ? 10 : 1),
      PageDown: at - 10,
      PageUp: at + 10,
      Home: 0,
      End: time.length - 1,
    }[event.key];
    if (next === undefined || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    goHearing(Math.max(0, Math.min(time.length - 1, next)));
  };
  return (
    <div
      className="ruler"
      {...pull}
      role="slider"
      tabIndex={0}
      aria-label="Ruler"
      aria-valuemin={1}
      aria-valuemax={Math.max(1, time.length)}
      aria-valuenow={(shown ?? get().frame) + 1}
      aria-valuetext={`frame ${(shown ?? get().frame) + 1} of ${time.length}`}
      onKeyDown={keys}
    >
      <svg width={time.room} height={RULER} aria-hidden="true">
        {marks.map((f) => (
          <g key={f} transform={`translate(${time.x(f) - time.scroll} 0)`}>
            <line y1={RULER - 6} y2={RULER} stroke="var(--faint)" />
            <text y={px(13)} textAnchor="middle" fontSize={px(11)} fill="var(--ink)">
              {f + 1}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
});

/** The line at the frame that shows. It moves by itself: nothing else is drawn again while playing. */
export const Playhead = memo(function Playhead({ time, top }: { time: Timeline; top: number }) {
  const frame = useWorkshop((w) => w.frame);
  const playing = useWorkshop((w) => w.playing);
  const latest = useRef(time);
  latest.current = time;
  useEffect(() => {
    const { x, scroll, room, width, scrollTo } = latest.current;
    if (playing || width <= room) return;
    const at = x(frame);
    if (at < scroll + 8 || at > scroll + room - 8) scrollTo(at - room / 2);
  }, [frame, playing]);
  const at = time.x(frame) - time.scroll;
  if (at < -1 || at > time.room) return null;
  return (
    <div className="playhead" style={{ top, transform: `translateX(${NAMES + at - 1}px)` }}>
      <i />
    </div>
  );
});
