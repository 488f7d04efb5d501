/** The rows of a shot on its frames: the camera, each of the cast with what it does when, and what is heard. */
import { useCarried, useOnto } from "../../ui/Carrying";
import { useRef, useState } from "react";
import { channelsOf, playedOf, submit, useWorkshop, pickOut } from "../../session";
import { Playhead, Ruler } from "../../sheet/Ruler";
import { NAMES, useTimeline, useZoomingWheel, type Timeline } from "../../sheet/timeline";
import { Edge, useExtent } from "../../ui/Edge";
import type { CastOf, Shot } from "../../wire/types";
import { KINDS, ownerName } from "../../sheet/threads";
import { calledOf, PLACE } from "./commands";
import { Beads } from "./Beads";
import { RowsBar } from "./RowsBar";
import { SoundRow } from "./SoundRow";
import { SpanBar } from "./SpanBar";
import { px } from "../../ui/text";

const RULER = px(22);
export const ROW = px(28);
const UPPER = px(20);
/** Pixels down of a thread of keys. */
const THREAD = px(20);

const most = () => Math.round(window.innerHeight * 0.55);

export function ShotRows({ shot }: { shot: Shot }) {
  const scroller = useRef<HTMLDivElement>(null);
  const time = useTimeline(shot.length, scroller);
  const held = useExtent("height-shot-rows", 250, 140, most);
  useZoomingWheel(scroller, time);
  const front = [...(shot.order ?? [])].reverse();
  const rows = [...new Set(Object.values(shot.sounds ?? {}).map((s) => s.row))].sort((a, b) => a - b);
  return (
    <section className="rows-cell" aria-label="Rows of the shot">
      <Edge label="Height of the rows" held={held} />
      <div className="shot-rows card-sheet" style={{ height: held.size }}>
        <RowsBar shot={shot} time={time} />
        <div className="timing-body" ref={scroller} tabIndex={-1}>
          <div className="timing-window shot-window">
            <div className="ruler-row" style={{ height: RULER }}>
              <div className="corner">front to back</div>
              <Ruler time={time} />
            </div>
            <CameraRow shot={shot} time={time} />
            {front.map((id, n) => (
              <CastRow key={id} shot={shot} cast={shot.cast![id]!} n={n} count={front.length} time={time} />
            ))}
            {rows.map((row) => (
              <SoundRow key={row} shot={shot} row={row} time={time} />
            ))}
            <Played shot={shot} time={time} />
            <Playhead time={time} top={0} />
          </div>
          <div className="track" style={{ width: NAMES + time.width }} />
        </div>
      </div>
    </section>
  );
}

/** What of the shot does not play is shaded. */
function Played({ shot, time }: { shot: Shot; time: Timeline }) {
  const [first, stop] = playedOf(shot);
  const shade = (from: number, to: number) => {
    const [a, b] = [Math.max(0, from * time.step - time.scroll), to * time.step - time.scroll];
    return b > a ? <div className="unplayed" style={{ left: NAMES + a, width: b - a }} /> : null;
  };
  return (
    <>
      {first > 0 && shade(0, first)}
      {stop < shot.length && shade(stop, shot.length)}
    </>
  );
}

function CameraRow({ shot, time }: { shot: Shot; time: Timeline }) {
  const chosen = useWorkshop((w) => w.picked?.kind === "camera");
  return (
    <div className={`shot-row${chosen ? " chosen" : ""}`} style={{ height: ROW }}>
      <button
        type="button"
        className="row-head"
        aria-pressed={chosen}
        onClick={() => pickOut({ picked: { kind: "camera" }, shotKeys: [] })}
      >
        <i className="bi bi-camera-video" aria-hidden="true" />
        <span className="flex-grow-1 text-truncate">Camera</span>
        {shot.camera?.shake && <span className="faint small">shakes</span>}
      </button>
      <div
        className="lane"
        role="presentation"
        onPointerDown={() => pickOut({ picked: { kind: "camera" }, shotKeys: [] })}
      >
        <Beads shot={shot} cast={null} time={time} middle={ROW / 2} />
      </div>
    </div>
  );
}

function CastRow({
  shot,
  cast,
  n,
  count,
  time,
}: {
  shot: Shot;
  cast: CastOf;
  n: number;
  count: number;
  time: Timeline;
}) {
  const chosen = useWorkshop(
    (w) =>
      (w.picked?.kind === "cast" && w.picked.id === cast.id) ||
      (w.picked?.kind === "span" && w.picked.cast === cast.id),
  );
  const spans = cast.kind === "member" ? Object.values(cast.spans ?? {}) : [];
  const highest = Math.max(0, ...spans.map((s) => s.row));
  const keyed = Object.keys(channelsOf(shot, cast.id)).length > 0;
  const [opened, setOpened] = useState(false);
  const puppet = useWorkshop((w) => w.documents[cast.puppet]);
  const threads = opened ? Object.entries(channelsOf(shot, cast.id)) : [];
  const own = ROW + highest * UPPER + (keyed ? 8 : 0);
  const height = own + threads.length * THREAD;
  const pick = () => pickOut({ picked: { kind: "cast", id: cast.id }, shotKeys: [] });
  const order = [...(shot.order ?? [])].reverse();
  /** Put it so many rows nearer to the front. */
  const move = (by: number) => {
    const others = order.filter((id) => id !== cast.id);
    const at = Math.max(0, Math.min(others.length, n + by));
    // Who stands right in front of it: rows go from front to back.
    void submit({ do: "order-cast", shot: shot.id, cast: cast.id, behind: others[at - 1] ?? null });
  };
  const carrying = useCarried({ kind: "cast", id: cast.id, name: calledOf(cast) });
  const { ref: under, over } = useOnto({
    takes: ({ kind, id }) => kind === "cast" && id !== cast.id,
    drop({ id: carried }) {
      const others = order.filter((id) => id !== carried);
      const at = others.indexOf(cast.id) + (order.indexOf(carried) < n ? 1 : 0);
      void submit({ do: "order-cast", shot: shot.id, cast: carried, behind: others[at - 1] ?? null });
    },
  });
  return (
    <div className={`shot-row${chosen ? " chosen" : ""}${over ? " dropping" : ""}`} ref={under} style={{ height }}>
      <div className="row-head" style={{ height: own }} {...carrying}>
        <button
          type="button"
          className="eye"
          aria-label={`${cast.hidden ? "Show" : "Hide"} ${calledOf(cast)}`}
          onClick={() => void submit({ do: "set-cast", shot: shot.id, cast: cast.id, hidden: !cast.hidden })}
        >
          <i className={`bi bi-eye${cast.hidden ? "-slash" : ""}`} aria-hidden="true" />
        </button>
        <button
          type="button"
          className="name"
          aria-pressed={chosen}
          onClick={pick}
          onKeyDown={(e) => {
            if (!e.altKey || (e.key !== "ArrowUp" && e.key !== "ArrowDown")) return;
            e.preventDefault();
            e.stopPropagation();
            move(e.key === "ArrowUp" ? -1 : 1);
          }}
          title={`${calledOf(cast)}, ${n + 1} of ${count} from the front: drag, or Alt with the arrows, to put it nearer or farther`}
        >
          {calledOf(cast)}
        </button>
        {keyed && (
          <button
            type="button"
            className="eye"
            aria-label={`Threads of the keys of ${calledOf(cast)}`}
            aria-expanded={opened}
            onClick={() => setOpened(!opened)}
          >
            <i className={`bi bi-chevron-${opened ? "down" : "right"}`} aria-hidden="true" />
          </button>
        )}
        {cast.kind === "copies" && <span className="faint small">× {cast.count}</span>}
        {cast.kind === "member" && cast.travel && <i className="bi bi-signpost" title="Carried by its feet" />}
        {cast.share !== 100 && <span className="faint small">{cast.share} %</span>}
      </div>
      <div className="lane" role="presentation" onPointerDown={pick}>
        {spans.map((span) => (
          <SpanBar
            key={span.id}
            cast={cast.id}
            span={span}
            time={time}
            top={(highest - span.row) * UPPER + 3}
            height={span.row === 0 ? ROW - 6 : UPPER - 3}
          />
        ))}
        {keyed && !opened && <Beads shot={shot} cast={cast.id} time={time} middle={own - 6} />}
        {threads.map(([id], i) => (
          <Beads key={id} shot={shot} cast={cast.id} channel={id} time={time} middle={own + (i + 0.5) * THREAD} />
        ))}
      </div>
      {threads.map(([id, c], i) => (
        <span key={id} className="thread-of text-truncate" style={{ top: own + i * THREAD, height: THREAD }}>
          {c.joint === PLACE || puppet?.kind !== "puppet" ? "Its place" : ownerName(puppet, c)}
          <span className="faint"> {KINDS[c.kind]}</span>
        </span>
      ))}
    </div>
  );
}
