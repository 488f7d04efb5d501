/** Drawings laid over one another, the one that is moved in front; it and its guide lines are pulled by hand. */
import { useShown } from "../../ui/shown";
import { useEffect, useRef, useState } from "react";
import { submit } from "../../session";
import { Painted } from "../../stage/Painted";
import { painter } from "../../stage/painter";
import { within } from "../../stage/view";
import { usePull, type Pull } from "../../ui/pull";
import type { Drawing, Piece, Puppet } from "../../wire/types";
import { H, Laid, LINES, W, type Held, type Line } from "./lines";

const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

interface Props {
  puppet: Puppet;
  piece: Piece;
  drawing: Drawing;
  /** How much of the others is seen, in percent. */
  others: number;
}

export function Overlaid({ puppet, piece, drawing, others }: Props) {
  const { shown: held, show, settle } = useShown<Held | null>(null, drawing);
  const area = useRef<HTMLDivElement>(null);
  const ready = usePrepared(piece);
  const laid = new Laid(piece, drawing, held);
  const of = { puppet: puppet.id, piece: piece.id, drawing: drawing.id };
  const shift = (dx: number, dy: number) => submit({ do: "set-drawing", ...of, dx, dy });

  const pull = usePull<HTMLDivElement>((event): Pull => {
    const [x, y] = within(area.current!, event);
    const near = (line: Line) => {
      const seen = laid.seen(drawing, line);
      return seen !== null && Math.abs((line === "guide" ? y : x) - seen) < 7;
    };
    const what = LINES.find(near) ?? "drawing";
    let [dx, dy] = [0, 0];
    return {
      move(e) {
        const [px, py] = within(area.current!, e);
        [dx, dy] = [px - x, py - y];
        show({ what, dx, dy });
      },
      end() {
        if (!dx && !dy) return settle();
        const units = (pixels: number) => Number((pixels / laid.scale).toFixed(3));
        const by = units(what === "guide" ? dy : dx);
        settle(what === "drawing" ? shift(units(dx), units(dy)) : submit({ do: "nudge-guide", ...of, line: what, by }));
      },
      cancel: () => settle(),
    };
  });
  const keys = (e: React.KeyboardEvent) => {
    const way = WAYS[e.key];
    if (!way) return;
    e.preventDefault();
    const step = e.shiftKey ? 10 : 1;
    void shift(way[0] * step, way[1] * step);
  };
  return (
    <div
      ref={area}
      className="lineup"
      style={{ width: W, height: H }}
      tabIndex={0}
      role="application"
      aria-label={`Drawings overlaid; drag to move ${drawing.name}, arrow keys for one unit`}
      {...pull}
      onKeyDown={keys}
    >
      <Painted
        width={W}
        height={H}
        watch={[piece.drawings, ready, drawing.id, others, held?.dx, held?.dy, held?.what]}
        paint={(p) =>
          p.thumbnail(W, H, (c) => {
            const faded = new p.kit.Paint();
            const put = (d: Drawing, seen: number) => {
              faded.setAlphaf(seen);
              c.saveLayer(faded);
              p.drawing(c, d.art, laid.place(d));
              c.restore();
            };
            for (const d of piece.drawings) if (d.id !== drawing.id) put(d, others / 100);
            put(drawing, 0.92);
            faded.delete();
          })
        }
      />
      <GuideLines piece={piece} laid={laid} />
    </div>
  );
}

/** How often the pictures of a piece's drawings have become ready. */
function usePrepared(piece: Piece): number {
  const [ready, setReady] = useState(0);
  useEffect(() => {
    void painter().then((p) =>
      p.prepare(piece.drawings.map((d) => ({ arts: [d.art] }))).then(() => setReady((n) => n + 1)),
    );
  }, [piece.drawings]);
  return ready;
}

/** The guide lines of all drawings, those of the one that is moved by themselves, and the spot where all pivots are. */
function GuideLines({ piece, laid }: { piece: Piece; laid: Laid }) {
  const [x, y] = laid.spot;
  const ends = (line: Line, at: number) =>
    line === "guide" ? { x1: 0, x2: W, y1: at, y2: at } : { x1: at, x2: at, y1: 0, y2: H };
  const others = piece.drawings.filter((d) => d.id !== laid.drawing.id);
  return (
    <svg width={W} height={H} aria-hidden="true">
      <path d={`M${x - 8} ${y}h16M${x} ${y - 8}v16`} stroke="var(--violet)" strokeWidth={1.6} />
      {LINES.flatMap((line) =>
        others.map((d) => {
          const at = laid.seen(d, line);
          const look = { stroke: "var(--rust)", strokeOpacity: 0.35, strokeDasharray: "3 5" };
          return at !== null && <line key={`${d.id} ${line}`} {...ends(line, at)} {...look} />;
        }),
      )}
      {LINES.map((line) => {
        const at = laid.seen(laid.drawing, line);
        const look = { stroke: "var(--rust)", strokeWidth: 2, cursor: line === "guide" ? "ns-resize" : "ew-resize" };
        return at !== null && <line key={line} {...ends(line, at + laid.pulled(line))} {...look} />;
      })}
    </svg>
  );
}
