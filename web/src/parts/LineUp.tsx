/** Drawings of a piece laid over one another, to line them up by hand, by guide lines or by their middles. */
import { useEffect, useRef, useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import type { Drawing, Piece, Puppet } from "../wire/types";
import { painter } from "../stage/painter";
import { submit } from "../session";
import { Painted } from "../stage/Painted";
import { usePull } from "../ui/pull";
import { within } from "../stage/view";
import { shownDrawing } from "./DrawingsCard";
import { NumberField, TrySlider } from "../ui/fields";
import { Row, Rows } from "../ui/Rows";

const [W, H] = [470, 380];
/** The guide lines of a drawing: the one that lies across tells how far down, the upright one how far to the right. */
const LINES = ["guide", "upright"] as const;
type Line = (typeof LINES)[number];
const SAID: Record<Line, { label: string; field: string }> = {
  guide: { label: "Guide line", field: "Down" },
  upright: { label: "Upright guide line", field: "Right" },
};
const lineOf = (d: Drawing, line: Line): number | null => d[line] ?? null;

export function LineUp({ puppet, piece, close }: { puppet: Puppet; piece: Piece; close: () => void }) {
  const [chosen, setChosen] = useState(shownDrawing(piece).id);
  const [others, setOthers] = useState(30);
  const [ready, setReady] = useState(0);
  const [held, setHeld] = useState<{ what: "drawing" | Line; dx: number; dy: number } | null>(null);
  const area = useRef<HTMLDivElement>(null);
  const drawing = piece.drawings.find((d) => d.id === chosen) ?? piece.drawings[0]!;

  useEffect(() => {
    void painter().then((p) =>
      p.prepare(piece.drawings.map((d) => ({ arts: [d.art] }))).then(() => setReady((n) => n + 1)),
    );
  }, [piece.drawings]);

  // All drawings with their pivots on one spot: that is how they replace one another.
  const boxes = piece.drawings.map(
    (d) =>
      [
        d.bounds[0]! - d.pivot[0]!,
        d.bounds[1]! - d.pivot[1]!,
        d.bounds[2]! - d.pivot[0]!,
        d.bounds[3]! - d.pivot[1]!,
      ] as const,
  );
  const all = boxes.reduce(
    (a, b) => [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[2], b[2]), Math.max(a[3], b[3])] as const,
  );
  const scale = Math.min((W - 60) / (all[2] - all[0]), (H - 60) / (all[3] - all[1]), 12);
  const [ox, oy] = [W / 2 - ((all[0] + all[2]) / 2) * scale, H / 2 - ((all[1] + all[3]) / 2) * scale];
  const moved = (d: Drawing) =>
    (held?.what === "drawing" && d.id === drawing.id ? [held.dx / scale, held.dy / scale] : [0, 0]) as [number, number];
  // Where a guide line is seen: how far down that across is, and how far to the right the upright one.
  const seenAt = (d: Drawing, line: Line): number | null => {
    const at = lineOf(d, line);
    const [i, o] = line === "guide" ? ([1, oy] as const) : ([0, ox] as const);
    return at === null ? null : o + (at - d.pivot[i]! + moved(d)[i]) * scale;
  };
  const shift = (line: Line) => (held?.what !== line ? 0 : line === "guide" ? held.dy : held.dx);

  const at = (e: React.PointerEvent): [number, number] => within(area.current!, e);
  const pull = usePull<HTMLDivElement>((event) => {
    const [x, y] = at(event);
    const near = (line: Line) => {
      const seen = seenAt(drawing, line);
      return seen !== null && Math.abs((line === "guide" ? y : x) - seen) < 7;
    };
    const what = LINES.find(near) ?? "drawing";
    let [dx, dy] = [0, 0];
    return {
      move(e) {
        const [px, py] = at(e);
        [dx, dy] = [px - x, py - y];
        setHeld({ what, dx, dy });
      },
      end() {
        setHeld(null);
        if (!dx && !dy) return;
        const base = { do: "set-drawing" as const, puppet: puppet.id, piece: piece.id, drawing: drawing.id };
        const units = (pixels: number) => Number((pixels / scale).toFixed(3));
        if (what === "guide") void submit({ ...base, guide: (drawing.guide ?? 0) + units(dy) });
        else if (what === "upright") void submit({ ...base, upright: (drawing.upright ?? 0) + units(dx) });
        else void submit({ ...base, dx: units(dx), dy: units(dy) });
      },
      cancel: () => setHeld(null),
    };
  });
  const nudge = (dx: number, dy: number) =>
    void submit({ do: "set-drawing", puppet: puppet.id, piece: piece.id, drawing: drawing.id, dx, dy });
  const keys = (e: React.KeyboardEvent) => {
    const step = e.shiftKey ? 10 : 1;
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    const way = ways[e.key];
    if (!way) return;
    e.preventDefault();
    nudge(...way);
  };
  const register = (by: "guide" | "middle") =>
    void submit({ do: "register-drawings", puppet: puppet.id, piece: piece.id, to: drawing.id, by });
  const put = (line: Line, at: number | null) =>
    void submit({ do: "set-drawing", puppet: puppet.id, piece: piece.id, drawing: drawing.id, [line]: at });
  const lined = LINES.some((line) => lineOf(drawing, line) !== null);
  const ends = (line: Line, at: number) =>
    line === "guide" ? { x1: 0, x2: W, y1: at, y2: at } : { x1: at, x2: at, y1: 0, y2: H };
  return (
    <Modal show onHide={close} size="lg" aria-labelledby="lineup-title">
      <Modal.Header closeButton>
        <Modal.Title id="lineup-title">Line up the drawings of {piece.name}</Modal.Title>
      </Modal.Header>
      <Modal.Body className="d-flex gap-3">
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
            watch={[piece.drawings, ready, chosen, others, held?.dx, held?.dy, held?.what]}
            paint={(p) =>
              p.thumbnail(W, H, (c) => {
                const place = (d: Drawing) => [
                  scale,
                  0,
                  0,
                  scale,
                  ox + (moved(d)[0] - d.pivot[0]!) * scale,
                  oy + (moved(d)[1] - d.pivot[1]!) * scale,
                ];
                const faded = new p.kit.Paint();
                faded.setAlphaf(others / 100);
                for (const d of piece.drawings) {
                  if (d.id === drawing.id) continue;
                  c.saveLayer(faded);
                  p.drawing(c, d.art, place(d));
                  c.restore();
                }
                faded.setAlphaf(0.92);
                c.saveLayer(faded);
                p.drawing(c, drawing.art, place(drawing));
                c.restore();
                faded.delete();
              })
            }
          />
          <svg width={W} height={H} aria-hidden="true">
            <path d={`M${ox - 8} ${oy}h16M${ox} ${oy - 8}v16`} stroke="var(--violet)" strokeWidth={1.6} />
            {LINES.flatMap((line) =>
              piece.drawings.map((d) => {
                const at = seenAt(d, line);
                return (
                  at !== null &&
                  d.id !== drawing.id && (
                    <line
                      key={`${d.id} ${line}`}
                      {...ends(line, at)}
                      stroke="var(--rust)"
                      strokeOpacity={0.35}
                      strokeDasharray="3 5"
                    />
                  )
                );
              }),
            )}
            {LINES.map((line) => {
              const at = seenAt(drawing, line);
              return (
                at !== null && (
                  <line
                    key={line}
                    {...ends(line, at + shift(line))}
                    stroke="var(--rust)"
                    strokeWidth={2}
                    cursor={line === "guide" ? "ns-resize" : "ew-resize"}
                  />
                )
              );
            })}
          </svg>
        </div>
        <div className="flex-grow-1 shrinks">
          <Rows
            kind="listbox"
            label="Which drawing to move"
            className="card-sheet which mb-2"
            ids={piece.drawings.map((d) => d.id)}
            chosen={[drawing.id]}
            choose={setChosen}
          >
            {piece.drawings.map((d) => (
              <Row key={d.id} id={d.id} chosen={d.id === drawing.id}>
                <span className="name">{d.name}</span>
                {lineOf(d, "guide") !== null && (
                  <i className="bi bi-dash-lg rusty" role="img" aria-label="has a guide line" />
                )}
                {lineOf(d, "upright") !== null && (
                  <i className="bi bi-dash-lg rusty upright" role="img" aria-label="has an upright guide line" />
                )}
              </Row>
            ))}
          </Rows>
          <Form.Label className="faint small mb-0" htmlFor="lineup-others">
            The others: {others} %
          </Form.Label>
          <TrySlider id="lineup-others" of="lineup.others" value={others} onSlide={setOthers} />
          {LINES.map((line) => {
            const at = lineOf(drawing, line);
            const i = line === "guide" ? 1 : 0;
            // Across at a third, where lips are; upright in the middle.
            const first =
              line === "guide"
                ? (drawing.bounds[1]! * 2 + drawing.bounds[3]!) / 3
                : (drawing.bounds[i]! + drawing.bounds[i + 2]!) / 2;
            return (
              <div key={line} className="d-flex align-items-center gap-2">
                <Form.Check
                  id={`lineup-${line}`}
                  type="switch"
                  className="flex-grow-1"
                  label={SAID[line].label}
                  checked={at !== null}
                  onChange={(e) => put(line, e.target.checked ? Number(first.toFixed(2)) : null)}
                />
                {at !== null && (
                  <div className="guide-at">
                    <NumberField
                      id={`lineup-at-${line}`}
                      label={SAID[line].field}
                      value={at}
                      unit="u"
                      digits={2}
                      onCommit={(to) => put(line, to)}
                    />
                  </div>
                )}
              </div>
            );
          })}
          <p className="hint">Put each guide line where the drawings must agree: for mouths, on the upper lip.</p>
          <Button
            size="sm"
            className="w-100 mb-1"
            variant="outline-primary"
            disabled={!lined}
            onClick={() => register("guide")}
          >
            Line up by guide lines
          </Button>
          <Button size="sm" className="w-100" variant="outline-primary" onClick={() => register("middle")}>
            Line up by their middles
          </Button>
          <p className="hint">Both line the others up with {drawing.name}.</p>
        </div>
      </Modal.Body>
    </Modal>
  );
}
