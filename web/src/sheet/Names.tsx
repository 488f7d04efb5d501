/** The names before the rows of the sheet: limbs to fold, threads and feet to take in hand. */
import { memo, useLayoutEffect, useRef, useState } from "react";
import { get, pickOut } from "../session";
import { SideMark } from "../ui/bits";
import { ROOT, type Puppet } from "../wire/types";
import { ROW } from "./draw";
import type { FootRow } from "./feet";
import { keysOfRow, KINDS, union, type Row, type Thread } from "./threads";

interface Props {
  puppet: Puppet;
  rows: Row[];
  top: number;
  height: number;
  lit: readonly string[];
  fold: (limb: string) => void;
}

/**
 * The names of the rows in the window: one tab stop for all of them (WAI-ARIA Authoring Practices 1.2, “Toolbar”), arrows
 * from row to row, also to those that are scrolled to; left and right fold a limb.
 */
export function Names({ puppet, rows, top, height, lit, fold }: Props) {
  const list = useRef<HTMLDivElement>(null);
  const [last, setLast] = useState(0);
  const walked = useRef(false);
  const first = Math.max(0, Math.floor(top / ROW));
  const end = Math.min(rows.length, Math.ceil((top + height) / ROW) + 1);
  const stop = last >= first && last < end ? last : Math.min(Math.ceil(top / ROW), Math.max(0, rows.length - 1));
  // A row that is walked to may only be there once it has been scrolled to.
  useLayoutEffect(() => {
    const found = walked.current && list.current!.querySelector<HTMLElement>(`[data-at="${last}"]`);
    if (!found) return;
    walked.current = false;
    found.focus({ preventScroll: true });
  });
  const go = (to: number): void => {
    if (to < 0 || to >= rows.length) return;
    walked.current = true;
    setLast(to);
    const scroller = list.current!.closest<HTMLElement>(".timing-body")!;
    if (to * ROW < top) scroller.scrollTop = to * ROW;
    else if ((to + 1) * ROW > top + height) scroller.scrollTop = (to + 1) * ROW - height;
  };
  const onKeyDown = (event: React.KeyboardEvent): void => {
    const row = rows[stop];
    if (!row || event.ctrlKey || event.metaKey || event.altKey) return;
    const limb = row.kind === "limb" ? row : null;
    const acts: Record<string, () => void> = {
      ArrowDown: () => go(stop + 1),
      ArrowUp: () => go(stop - 1),
      Home: () => go(0),
      End: () => go(rows.length - 1),
      ArrowLeft: () => {
        if (!limb) go(rows.findLastIndex((r, i) => i < stop && r.kind === "limb"));
        else if (!limb.folded) fold(limb.limb);
      },
      ArrowRight: () => {
        if (limb?.folded) fold(limb.limb);
      },
    };
    const act = acts[event.key];
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  return (
    <div
      className="sheet-names"
      ref={list}
      role="toolbar"
      aria-orientation="vertical"
      aria-label="Threads"
      tabIndex={-1}
      onKeyDown={onKeyDown}
      onFocus={(event) => {
        const at = (event.target as HTMLElement).dataset.at;
        if (at !== undefined) setLast(Number(at));
      }}
    >
      <div style={{ transform: `translateY(${first * ROW - top}px)` }}>
        {rows.slice(first, end).map((row, i) => {
          const place = { "data-at": first + i, tabIndex: first + i === stop ? 0 : -1 };
          if (row.kind === "limb")
            return (
              <button
                key={`limb ${row.limb}`}
                type="button"
                className="thread-name limb"
                aria-expanded={!row.folded}
                onClick={() => fold(row.limb)}
                {...place}
              >
                <i className={`bi bi-chevron-${row.folded ? "right" : "down"}`} aria-hidden="true" />
                <span className="text-truncate flex-grow-1">{row.limb}</span>
                <span className="what">{row.threads.length}</span>
              </button>
            );
          if (row.kind === "foot")
            return (
              <FootName key={`foot ${row.joint}`} puppet={puppet} row={row} lit={lit.includes(row.joint)} {...place} />
            );
          const { id, channel } = row.thread;
          return (
            <ThreadName key={id} puppet={puppet} thread={row.thread} lit={lit.includes(channel.joint)} {...place} />
          );
        })}
      </div>
    </div>
  );
}

/** Which row it is, and whether the tab key comes to it. */
interface Place {
  "data-at": number;
  tabIndex: number;
  lit: boolean;
  puppet: Puppet;
}

const FootName = memo(function FootName({ puppet, row, lit, ...place }: Place & { row: FootRow }) {
  return (
    <button
      type="button"
      className={`thread-name${lit ? " chosen" : ""}`}
      title={`${row.name} on the ground: drag in its row to plant it`}
      onClick={() => pickOut({ joint: row.joint, keys: [], poses: [], plant: row.plants[0]?.id ?? null })}
      {...place}
    >
      <SideMark side={puppet.joints?.[row.joint]?.side ?? "centre"} />
      <span className="text-truncate">{row.name}</span>
      <span className="what">on the ground</span>
    </button>
  );
});

/** Select all keys of a thread and its joint, alone or beside what is selected. */
function selectThread(puppet: Puppet, thread: Thread, adds: boolean): void {
  const { joints, keys } = get();
  const own = thread.channel.joint;
  const joint = puppet.joints?.[own] || own === ROOT ? own : null;
  const found = keysOfRow({ kind: "thread", thread });
  pickOut({
    ...(joint && { joint, joints: adds ? [...joints.filter((id) => id !== joint), joint] : [joint] }),
    keys: adds ? union(keys, found) : found,
    poses: [],
  });
}

const ThreadName = memo(function ThreadName({ puppet, thread, lit, ...place }: Place & { thread: Thread }) {
  const { channel, name } = thread;
  const late = channel.delay;
  return (
    <button
      type="button"
      className={`thread-name${lit ? " chosen" : ""}`}
      title={`Select all keys of ${name}, ${KINDS[channel.kind]}`}
      onClick={(event) => selectThread(puppet, thread, event.shiftKey || event.ctrlKey || event.metaKey)}
      {...place}
    >
      <SideMark side={puppet.joints?.[channel.joint]?.side ?? "centre"} />
      <span className="text-truncate">{name}</span>
      {late !== 0 && (
        <span className="late" title={`${Math.abs(late)} frames ${late > 0 ? "late" : "early"}`}>
          {late > 0 ? "+" : "−"}
          {Number(Math.abs(late).toFixed(2))}
        </span>
      )}
      <span className="what">{KINDS[channel.kind]}</span>
    </button>
  );
});
