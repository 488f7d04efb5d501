/**
 * The pose strip: a card for every pose, as wide as the pose lasts and right over its frames on the timing
 * sheet. A card's edge is dragged to retime it, the card itself to put it elsewhere; the chip at its end shows
 * how it goes on to the next.
 */
import { useShown } from "../ui/shown";
import { memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { get, goTo, motionOf, submit, useWorkshop, type Plan, pickOut } from "../session";
import type { Timeline } from "../sheet/timeline";
import { painter } from "../stage/painter";
import { usePull, type Pull } from "../ui/pull";
import type { Motion } from "../wire/types";
import { easeOf } from "./ease";
import { PoseCard } from "./PoseCard";
import { px } from "../ui/text";

export const STRIP = px(92);
const SLACK = 4;

export interface Card {
  frame: number;
  end: number;
  label: string;
  breakdown: boolean;
}

/** The cards in order, each from its frame to where the next begins. */
export function cardsOf(motion: Motion): Card[] {
  const length = motion.length;
  const frames = Object.keys(motion.poses ?? {})
    .map(Number)
    .filter((f) => f < length)
    .sort((a, b) => a - b);
  return frames.map((frame, i) => {
    const pose = motion.poses![String(frame)]!;
    return { frame, end: frames[i + 1] ?? length, label: pose.label, breakdown: pose.breakdown };
  });
}

interface Drag {
  card: number;
  /** Frames that the card lasts while its edge is dragged. */
  frames?: number;
  /** The place among the cards that the selected ones would be put before. */
  before?: number;
}

export const PoseStrip = memo(function PoseStrip({
  motion,
  time,
  follow,
  chart,
}: {
  motion: Motion;
  time: Timeline;
  follow: boolean;
  chart: (frame: number) => void;
}) {
  const plan = useWorkshop((w) => w.plan);
  const spacing = useWorkshop((w) => w.spacing);
  const poses = useWorkshop((w) => w.poses);
  const { shown: drag, show, settle } = useShown<Drag | null>(null, motion);
  const ready = useArt(plan);
  const cards = cardsOf(motion);
  const frames = cards.map((c) => c.frame).join();
  const row = useMemo(() => (frames ? frames.split(",").map(Number) : []), [frames]);
  const shown = drag?.frames === undefined ? cards : retimed(cards, drag.card, drag.frames, follow);

  const choose = (i: number, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    const { frame } = cards[i]!;
    const chosen = get().poses;
    if (event.shiftKey && chosen.length) {
      const from = cards.findIndex((c) => c.frame === chosen[0]);
      const [a, b] = [Math.min(from, i), Math.max(from, i)];
      const through = cards.slice(a, b + 1).map((c) => c.frame);
      pickOut({ poses: from <= i ? through : through.reverse(), keys: [] });
    } else if (event.ctrlKey || event.metaKey)
      pickOut({ poses: chosen.includes(frame) ? chosen.filter((f) => f !== frame) : [...chosen, frame], keys: [] });
    else pickOut({ poses: [frame], keys: [] });
    goTo(frame);
  };

  const pull = usePull<HTMLDivElement>((event) => {
    const target = event.target as Element;
    const card = target.closest<HTMLElement>("[data-card]");
    if (!card || target.closest("button.chip")) return null;
    const i = Number(card.dataset.card);
    return target.closest(".card-edge-grip") ? pullEdge(i, event.clientX) : pullCard(i, event);
  });
  const pullEdge = (i: number, x0: number): Pull => {
    const { frame, end } = cards[i]!;
    let frames = end - frame;
    return {
      move(event) {
        frames = Math.max(1, end - frame + Math.round((event.clientX - x0) / time.step));
        show({ card: i, frames });
      },
      end() {
        const put = () => submit({ do: "retime-pose", motion: motion.id, frame, frames, follow });
        settle(frames !== end - frame ? keepingPoses(put) : null);
      },
      cancel: () => settle(),
    };
  };
  const pullCard = (i: number, event: React.PointerEvent): Pull => {
    const x0 = event.clientX;
    const plain = !event.shiftKey && !event.ctrlKey && !event.metaKey;
    const strip = event.currentTarget.getBoundingClientRect();
    let before: number | null = null;
    return {
      move(now) {
        if (before === null && Math.abs(now.clientX - x0) <= SLACK) return;
        const at = now.clientX - strip.left + time.scroll;
        before = cards.filter((c) => (c.frame + c.end) / 2 < at / time.step).length;
        show({ card: i, before });
      },
      end(now) {
        settle();
        if (before === null) {
          choose(i, now);
          return;
        }
        const moving = poses.includes(cards[i]!.frame) && plain ? poses : [cards[i]!.frame];
        const stays = before === i || before === i + 1;
        if (moving.length > 1 || !stays)
          void submit({
            do: "order-poses",
            motion: motion.id,
            frames: moving,
            before: cards[before]?.frame ?? null,
          });
      },
      cancel: () => settle(),
    };
  };

  // What cards are given stays the same from one drawing to the next, so that none is drawn for nothing.
  const acts = useRef({ choose, chart });
  useEffect(() => {
    acts.current = { choose, chart };
  });
  const chosenBy = useCallback((n: number, event: React.MouseEvent) => acts.current.choose(n, event), []);
  const charted = useCallback((frame: number) => acts.current.chart(frame), []);
  const eases = useMemo(() => new Map(row.map((f) => [f, easeOf(motion, spacing, f)])), [row, motion, spacing]);
  return (
    <div className="pose-strip" role="group" aria-label="Pose strip" {...pull}>
      <div className="pose-row" style={{ transform: `translateX(${-time.scroll}px)` }}>
        {shown.map((card, i) => {
          const [left, width] = [card.frame * time.step, (card.end - card.frame) * time.step];
          if (left + width < time.scroll - 200 || left > time.scroll + time.room + 200) return null;
          const { frame } = cards[i]!;
          return (
            <PoseCard
              key={frame}
              n={i}
              frame={frame}
              frames={card.end - card.frame}
              label={card.label}
              breakdown={card.breakdown}
              left={left}
              width={width}
              chosen={poses.includes(frame)}
              progress={eases.get(frame)}
              row={row}
              ready={ready}
              choose={chosenBy}
              chart={charted}
            />
          );
        })}
      </div>
      {drag?.before !== undefined && (
        <div
          className="insert-mark"
          style={{ left: (cards[drag.before]?.frame ?? time.length) * time.step - time.scroll - 2 }}
        />
      )}
    </div>
  );
});

/** Do what moves cards in time without changing their order, and keep the same ones selected. */
export async function keepingPoses(act: () => Promise<boolean>): Promise<void> {
  const of = () => {
    const motion = motionOf(get());
    return motion ? cardsOf(motion).map((c) => c.frame) : [];
  };
  const before = of();
  const chosen = get().poses.map((f) => before.indexOf(f));
  if (!(await act())) return;
  const after = of();
  if (after.length === before.length) pickOut({ poses: chosen.flatMap((i) => after[i] ?? []) });
}

/** Counts how often art that the cards show has come. */
function useArt(plan: Plan | null): number {
  const [ready, setReady] = useState(0);
  const items = plan?.drawn.items;
  useEffect(() => {
    let live = true;
    if (items)
      void painter()
        .then((p) => p.prepare([...items]))
        .then(
          () => live && setReady((n) => n + 1),
          () => undefined,
        );
    return () => {
      live = false;
    };
  }, [items]);
  return ready;
}

/** Where the cards would be, while an edge is dragged. */
function retimed(cards: Card[], i: number, frames: number, follow: boolean): Card[] {
  const by = frames - (cards[i]!.end - cards[i]!.frame);
  return cards.map((card, n) => {
    if (n < i) return card;
    if (n === i) return { ...card, end: card.end + by };
    if (follow) return { ...card, frame: card.frame + by, end: card.end + by };
    return n === i + 1 ? { ...card, frame: Math.min(card.end - 1, card.frame + by) } : card;
  });
}
