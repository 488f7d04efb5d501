/** Drawings of a piece laid over one another, to line them up by hand, by guide lines or by their middles. */
import { useEffect, useRef, useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import type { Drawing, Piece, Puppet } from "../wire/types";
import { painter } from "../stage/painter";
import { submit } from "../session";
import { Painted } from "../ui/bits";
import { usePull } from "../ui/pull";
import { within } from "../stage/view";
import { shownDrawing } from "./DrawingsCard";
import { NumberField } from "../ui/fields";
import { Row, Rows } from "../ui/Rows";

const [W, H] = [470, 380];

export function LineUp({ puppet, piece, close }: { puppet: Puppet; piece: Piece; close: () => void }) {
  const [chosen, setChosen] = useState(shownDrawing(piece).id);
  const [others, setOthers] = useState(30);
  const [ready, setReady] = useState(0);
  const [held, setHeld] = useState<{ what: "drawing" | "guide"; dx: number; dy: number } | null>(null);
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
  const guideAt = (d: Drawing): number | null =>
    d.guide === null || d.guide === undefined ? null : oy + (d.guide - d.pivot[1]! + moved(d)[1]) * scale;
  const own = guideAt(drawing);
  const shift = held?.what === "guide" ? held.dy : 0;

  const at = (e: React.PointerEvent): [number, number] => within(area.current!, e);
  const pull = usePull<HTMLDivElement>((event) => {
    const [x, y] = at(event);
    const what = own !== null && Math.abs(y - own) < 7 ? "guide" : "drawing";
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
        if (what === "guide") void submit({ ...base, guide: Number(((drawing.guide ?? 0) + dy / scale).toFixed(3)) });
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
  const hasGuide = drawing.guide !== null && drawing.guide !== undefined;
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
              p.pixels(W, H, (c) => {
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
            {piece.drawings.map((d) => {
              const y = guideAt(d);
              return (
                y !== null &&
                d.id !== drawing.id && (
                  <line
                    key={d.id}
                    x1={0}
                    x2={W}
                    y1={y}
                    y2={y}
                    stroke="var(--rust)"
                    strokeOpacity={0.35}
                    strokeDasharray="3 5"
                  />
                )
              );
            })}
            {own !== null && (
              <line
                x1={0}
                x2={W}
                y1={own + shift}
                y2={own + shift}
                stroke="var(--rust)"
                strokeWidth={2}
                style={{ cursor: "ns-resize" }}
              />
            )}
          </svg>
        </div>
        <div className="flex-grow-1" style={{ minWidth: 0 }}>
          <Rows
            kind="listbox"
            label="Which drawing to move"
            className="card-sheet mb-2"
            style={{ maxHeight: 170 }}
            ids={piece.drawings.map((d) => d.id)}
            chosen={[drawing.id]}
            choose={setChosen}
          >
            {piece.drawings.map((d) => (
              <Row key={d.id} id={d.id} chosen={d.id === drawing.id}>
                <span className="name">{d.name}</span>
                {d.guide !== null && d.guide !== undefined && (
                  <i
                    className="bi bi-dash-lg"
                    role="img"
                    aria-label="has a guide line"
                    style={{ color: "var(--rust)" }}
                  />
                )}
              </Row>
            ))}
          </Rows>
          <Form.Label className="faint small mb-0" htmlFor="lineup-others">
            The others: {others} %
          </Form.Label>
          <Form.Range
            id="lineup-others"
            min={0}
            max={100}
            value={others}
            onChange={(e) => setOthers(Number(e.target.value))}
          />
          <Form.Check
            id="lineup-guide"
            type="switch"
            label="Guide line"
            checked={hasGuide}
            onChange={(e) =>
              void submit({
                do: "set-drawing",
                puppet: puppet.id,
                piece: piece.id,
                drawing: drawing.id,
                guide: e.target.checked ? Number(((drawing.bounds[1]! * 2 + drawing.bounds[3]!) / 3).toFixed(2)) : null,
              })
            }
          />
          {hasGuide && (
            <div className="fields mt-1">
              <label htmlFor="lineup-line">Down</label>
              <NumberField
                id="lineup-line"
                value={drawing.guide!}
                unit="u"
                digits={2}
                onCommit={(guide) =>
                  void submit({ do: "set-drawing", puppet: puppet.id, piece: piece.id, drawing: drawing.id, guide })
                }
              />
            </div>
          )}
          <p className="hint">Put each guide line where the drawings must agree: for mouths, on the upper lip.</p>
          <Button
            size="sm"
            className="w-100 mb-1"
            variant="outline-primary"
            disabled={!hasGuide}
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
