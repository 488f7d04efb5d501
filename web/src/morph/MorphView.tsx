/**
 * How one drawing becomes another: both side by side with their match marks, what is between them, what goes wrong on
 * the way, and which marks would mend it.
 */
import { useEffect, useMemo, useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { freshId, submit } from "../session";
import { painter } from "../stage/painter";
import type { Mark, MarkGiven, Morph, Piece, Point, Puppet } from "../wire/types";
import { IconButton } from "../ui/bits";
import { Choices, type Choice } from "../ui/Choices";
import { NumberField, TrySlider } from "../ui/fields";
import { Between } from "./Between";
import { MarkChip } from "./marks";
import { Shapes } from "./Shapes";
import { fromPivot, H, Side, W } from "./Side";
import { Troubles } from "./Troubles";
import { morphOf, useMorph } from "./useMorph";
import { fitted } from "./view";
import { Select } from "../ui/Select";

const EVENLY = Array.from({ length: 25 }, (_, k) => k / 24);
const WAYS: Choice<NonNullable<Morph["way"]>>[] = [
  { value: "straight", name: "Straight", tip: "Every point goes straight to its place" },
  { value: "turn", name: "Turn", tip: "The whole turns as it goes; nothing shrinks" },
  { value: "swing", name: "Swing", tip: "Turning and length of every part apart: limbs swing" },
];

interface MorphViewProps {
  puppet: Puppet;
  piece: Piece;
  first: string;
  second: string;
  /** How far it has come in each frame, where it is looked at in a motion. */
  parts?: readonly number[];
  close: () => void;
}

export function MorphView({ puppet, piece, first: from, second: to, parts = EVENLY, close }: MorphViewProps) {
  const [[first, second], setPair] = useState([from, to]);
  const [step, setStep] = useState(Math.floor(parts.length / 2));
  const [chosen, setChosen] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const [lit, setLit] = useState<number | null>(null);
  const [playing, setPlaying] = useState(false);
  const [ready, setReady] = useState(0);
  const looked = useMorph(piece, first, second, parts);
  const { becoming, tried } = looked;
  const drawings = [first, second].map((id) => piece.drawings.find((d) => d.id === id) ?? piece.drawings[0]!);
  const [one, two] = [drawings[0]!, drawings[1]!];
  const morph = morphOf(piece, first, second);
  const [moved, setMoved] = useState<Mark | null>(null);
  const marks = Object.values(morph?.marks ?? {}).map((m) => (m.id === moved?.id ? moved : m));

  useEffect(() => {
    void painter().then((p) => p.prepare([{ arts: [one.art, two.art] }]).then(() => setReady((n) => n + 1)));
  }, [one.art, two.art]);
  useEffect(() => {
    if (!playing) return;
    const timer = setInterval(() => setStep((s) => (s + 1) % parts.length), 1000 / 12);
    return () => clearInterval(timer);
  }, [playing, parts.length]);

  const boxes = drawings.map((d) => [...fromPivot(d, d.bounds), ...fromPivot(d, d.bounds.slice(2))]);
  const box = [0, 1, 2, 3].map((k) => (k < 2 ? Math.min : Math.max)(boxes[0]![k]!, boxes[1]![k]!));
  const fits = boxes.map((b) => fitted(b, W, H));
  const both = fitted(box, W, H);
  const shown = tried ?? becoming;
  const at = tried ? 0 : step;
  const pair = { puppet: puppet.id, piece: piece.id, first, second };
  const whole = useMemo<Morph>(
    () =>
      morph ?? { id: "tried", first, second, way: "straight", colours: "oklab", lone: "point", pairs: [], marks: {} },
    [morph, first, second],
  );
  const put = (mark: MarkGiven) => {
    looked.letGo();
    void submit({ do: "set-mark", ...pair, mark }).then(() => {
      setMoved(null);
      looked.settle();
    });
  };
  const rounded = ([x, y]: Point): Point => [Number(x.toFixed(2)), Number(y.toFixed(2))];
  const turned = (mark: string, side: 0 | 1, place: Point): Mark | null => {
    const known = marks.find((m) => m.id === mark);
    return known ? { ...known, [side ? "second" : "first"]: rounded(place) } : null;
  };
  const moving = (id: string, side: 0 | 1, place: Point) => {
    const mark = turned(id, side, place);
    if (!mark) return;
    setMoved(mark);
    looked.attempt({ ...whole, marks: { ...whole.marks, [mark.id]: mark } }, parts[step]!);
  };
  const units = (side: 0 | 1, [x, y]: Point): Point => {
    const d = side ? two : one;
    return rounded([x + d.pivot[0]!, y + d.pivot[1]!]);
  };
  const add = (side: 0 | 1, here: Point, there: Point) => {
    const id = freshId();
    const [a, b] = side ? [there, here] : [here, there];
    setChosen(id);
    put({ id, first: units(0, a), second: units(1, b), stays: 0 });
  };
  const remove = (mark: string) => {
    setChosen(null);
    void submit({ do: "remove-mark", ...pair, mark });
  };
  const sides = {
    becoming: shown,
    marks,
    chosen,
    lit,
    ready,
    choose: setChosen,
    add,
    moving,
    moved: (id: string, side: 0 | 1, place: Point) => {
      const mark = turned(id, side, place);
      if (mark) put({ id, [side ? "second" : "first"]: mark[side ? "second" : "first"] });
    },
    back: () => {
      looked.letGo();
      setMoved(null);
      looked.settle();
    },
  };
  const choose = (side: 0 | 1, id: string) => {
    const other = side ? first : second;
    const next: [string, string] = side ? [first, id] : [id, second];
    setChosen(null);
    setPair(id === other ? [second, first] : next);
  };
  const held = marks.find((m) => m.id === chosen);
  return (
    <Modal show onHide={close} size="xl" aria-labelledby="morph-title" className="morph-view">
      <Modal.Header closeButton>
        <Modal.Title id="morph-title">How drawings of {piece.name} become one another</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <div className="morph-row" data-busy={looked.busy || undefined}>
          <Side side={0} title="First" drawing={one} fit={fits[0]!} {...sides} />
          <Between
            becoming={shown}
            step={at}
            fit={both}
            over={over ? [one, two] : null}
            ready={ready}
            title={`${Math.round(parts[step]! * 100)} % of the way`}
          />
          <Side side={1} title="Second" drawing={two} fit={fits[1]!} {...sides} />
          <div className="morph-how">
            <div className="fields">
              {([0, 1] as const).map((side) => (
                <WhichDrawing key={side} piece={piece} side={side} value={side ? second : first} choose={choose} />
              ))}
              <label htmlFor="morph-colours">Colours</label>
              <Select
                id="morph-colours"
                size="sm"
                value={whole.colours}
                onChange={(e) => void submit({ do: "set-morph", ...pair, colours: e.target.value as "oklab" })}
              >
                <option value="oklab">even to the eye</option>
                <option value="srgb">by their levels</option>
              </Select>
              <label htmlFor="morph-lone">Alone</label>
              <Select
                id="morph-lone"
                size="sm"
                value={whole.lone}
                onChange={(e) => void submit({ do: "set-morph", ...pair, lone: e.target.value as "point" })}
              >
                <option value="point">from a point</option>
                <option value="line">from a line</option>
                <option value="neighbour">from its neighbour</option>
              </Select>
            </div>
            <Choices
              label="The way between"
              choices={WAYS}
              chosen={(value) => whole.way === value}
              choose={(way) => void submit({ do: "set-morph", ...pair, way })}
            />
            <Shapes pair={pair} whole={whole} becoming={becoming} light={setLit} />
          </div>
        </div>
        <div className="morph-run">
          <IconButton
            icon={playing ? "pause-fill" : "play-fill"}
            label={playing ? "Pause" : "Play the in-betweens"}
            onClick={() => setPlaying(!playing)}
          />
          <TrySlider
            label="Part of the way"
            said={`${Math.round(parts[step]! * 100)} percent`}
            of="morph.step"
            max={parts.length - 1}
            value={step}
            onSlide={(n) => (setPlaying(false), setStep(n))}
          />
          <Form.Check
            id="morph-over"
            type="switch"
            label="Both beneath"
            checked={over}
            onChange={(e) => setOver(e.target.checked)}
          />
        </div>
        <div className="morph-foot">
          <Troubles becoming={becoming} step={step} steps={parts.length} go={setStep} take={put} busy={looked.busy} />
          <section className="morph-marks" aria-label="Match marks">
            <h3>Match marks</h3>
            {!marks.length && (
              <p className="hint mt-0">
                Click on an outline: that place becomes the place marked on the other drawing. Drag either to where it
                belongs.
              </p>
            )}
            <ul>
              {marks.map((m, n) => (
                <li key={m.id} className={m.id === chosen ? "chosen" : ""}>
                  <button
                    type="button"
                    className="mark-row"
                    aria-pressed={m.id === chosen}
                    onClick={() => setChosen(m.id === chosen ? null : m.id)}
                  >
                    <MarkChip n={n} />
                    <span>
                      Mark {n + 1}
                      {becoming?.crossed.includes(m.id) && <em> crosses others: not kept</em>}
                    </span>
                  </button>
                  <IconButton quiet icon="trash" label={`Remove mark ${n + 1}`} onClick={() => remove(m.id)} />
                </li>
              ))}
            </ul>
          </section>
          <section aria-label="The chosen mark">
            {held ? (
              <MarkFields key={held.id} mark={held} put={put} />
            ) : (
              marks.length > 0 && <p className="hint mt-0">Choose a mark to place it by numbers, or to let it stay.</p>
            )}
          </section>
        </div>
      </Modal.Body>
      <Modal.Footer>
        <Button onClick={close}>Done</Button>
      </Modal.Footer>
    </Modal>
  );
}

function WhichDrawing({
  piece,
  side,
  value,
  choose,
}: {
  piece: Piece;
  side: 0 | 1;
  value: string;
  choose: (side: 0 | 1, id: string) => void;
}) {
  const id = `morph-drawing-${side}`;
  return (
    <>
      <label htmlFor={id}>{side ? "Second" : "First"}</label>
      <Select id={id} size="sm" value={value} onChange={(e) => choose(side, e.target.value)}>
        {piece.drawings.map((d) => (
          <option key={d.id} value={d.id}>
            {d.name}
          </option>
        ))}
      </Select>
    </>
  );
}

function MarkFields({ mark, put }: { mark: Mark; put: (mark: MarkGiven) => void }) {
  const field = (side: "first" | "second", k: 0 | 1) => (
    <NumberField
      id={`mark-${side}-${k}`}
      label={`${side === "first" ? "In the first" : "In the second"}, ${k ? "y" : "x"}`}
      value={mark[side][k]!}
      unit="u"
      onCommit={(v) => put({ id: mark.id, [side]: k ? [null, v] : [v, null] })}
    />
  );
  return (
    <div className="fields">
      <span className="faint">In the first</span>
      <div className="pair">
        {field("first", 0)}
        {field("first", 1)}
      </div>
      <span className="faint">In the second</span>
      <div className="pair">
        {field("second", 0)}
        {field("second", 1)}
      </div>
      <label htmlFor="mark-stays">Stays for</label>
      <NumberField
        id="mark-stays"
        of="Mark.stays"
        value={mark.stays}
        unit="%"
        digits={0}
        onCommit={(v) => put({ id: mark.id, stays: v })}
      />
    </div>
  );
}
