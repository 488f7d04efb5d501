/** Touching up what a piece shows: its parts, and the lines that were wiped off and drawn on it. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Fragment, useEffect } from "react";
import { Button } from "react-bootstrap";
import type { Drawing, Piece, Puppet, RetouchedPart, TouchUp } from "../wire/types";
import { get, partsOf, touchUp } from "../session";
import { IconButton } from "../ui/bits";
import { Fold } from "../ui/Fold";
import { NumberField } from "../ui/fields";
import { Row, Rows } from "../ui/Rows";
import { ColourField } from "./ColourField";
import { shownDrawing } from "./shownDrawing";

/** Pens of a width in stage units. */
export interface Pen {
  eraser: number;
  brush: number;
  colour: string;
}

/** The parts of the drawing that a piece shows, from the back, and what is done to it. */
export function useParts(puppet: Puppet | undefined, piece: Piece | undefined, wanted: boolean) {
  const drawing = piece && shownDrawing(piece);
  const { data, error } = useQuery({
    queryKey: ["parts", get().id, puppet?.id, piece?.id, drawing?.id, drawing?.art],
    queryFn: () => partsOf(puppet!.id, piece!.id, drawing!.id),
    enabled: !!drawing && wanted,
    placeholderData: keepPreviousData,
  });
  const touch = (touch: TouchUp): Promise<unknown> =>
    puppet && piece && drawing
      ? touchUp({ puppet: puppet.id, piece: piece.id, drawing: drawing.id, touch })
      : Promise.resolve();
  return { parts: drawing && wanted ? (data ?? []) : [], untold: error?.message ?? null, touch };
}

interface Props {
  drawing: Drawing;
  /** Make a copy of the drawing, beside it. */
  copy: () => void;
  parts: RetouchedPart[];
  /** Why its parts are not told, if they are not. */
  untold: string | null;
  /** What is chosen: `part` or `line`, and which. */
  chosen: string | null;
  choose: (row: string | null) => void;
  touch: (touch: TouchUp) => Promise<unknown>;
  /** Whether one of its tools is in hand. */
  inHand: boolean;
  /** Whether it is open, and the parts are looked at. */
  look: (open: boolean) => void;
  children?: React.ReactNode;
}

/** How wide the line of a tool is, and in which colour. */
export function PenFields({ way, pen, change }: { way: "eraser" | "brush"; pen: Pen; change: (pen: Pen) => void }) {
  return (
    <div className="fields mb-2">
      <label htmlFor="pen-width">Line width</label>
      <NumberField
        id="pen-width"
        of="TouchUp.width"
        value={pen[way]}
        unit="u"
        onCommit={(width) => change({ ...pen, [way]: width })}
      />
      {way === "brush" && (
        <>
          <span className="faint">Colour</span>
          <ColourField
            label="Colour of the line"
            value={pen.colour}
            onCommit={(colour) => change({ ...pen, colour })}
          />
        </>
      )}
    </div>
  );
}

export function TouchUpCard({ drawing, copy, parts, untold, chosen, choose, touch, inHand, look, children }: Props) {
  const lines = drawing.retouch?.lines ?? [];
  const line = lines.findIndex((_, i) => chosen === `line ${i}`);
  const at = parts.findIndex((p) => chosen === `part ${p.part}`);
  const part = parts[at];
  // The last line lies over all others.
  const drawn = lines.map((line, i) => ({ ...line, i })).reverse();
  const rows = [...drawn.map((l) => `line ${l.i}`), ...parts.map((p) => `part ${p.part}`).reverse()];
  return (
    <Fold
      title="Touch up"
      note={drawing.retouch ? "changed here" : "as it came"}
      open={!!drawing.retouch || inHand}
      needed={inHand}
    >
      <Looked look={look} />
      {untold && <p className="hint mt-0">{untold}</p>}
      {children}
      <Rows
        kind="listbox"
        label="Parts of the drawing, the foremost first"
        className="card-sheet short"
        ids={rows}
        chosen={chosen && rows.includes(chosen) ? [chosen] : []}
        choose={(id) => choose(id)}
      >
        {drawn.map(({ i, ...l }) => (
          <Row key={`line ${i}`} id={`line ${i}`} chosen={chosen === `line ${i}`} className="part-row">
            <i className={`bi bi-${l.do === "wipe" ? "eraser" : "brush"}`} aria-hidden="true" />
            <span className="name">
              {l.do === "wipe" ? "wiped" : "drawn"} line {i + 1}
            </span>
          </Row>
        ))}
        {[...parts].reverse().map((p) => (
          <Row
            key={p.part}
            id={`part ${p.part}`}
            chosen={chosen === `part ${p.part}`}
            className={`part-row${p.change.out ? " faint" : ""}`}
          >
            <span className="colour-chip" style={{ background: (p.fill ?? p.stroke)?.slice(0, 7) }} />
            <span className="name">
              {p.name}
              {p.change.out && ", left out"}
            </span>
          </Row>
        ))}
      </Rows>
      {line >= 0 && (
        <Button
          size="sm"
          variant="outline-primary"
          className="mt-2"
          onClick={() => void touch({ edit: "lift", line }).then(() => choose(null))}
        >
          Take line {line + 1} back
        </Button>
      )}
      {part && <PartFields key={part.part} part={part} at={at} count={parts.length} touch={touch} />}
      {drawing.retouch ? (
        <Button
          size="sm"
          variant="outline-primary"
          className="mt-2 d-block"
          onClick={() => void touch({ edit: "restore" })}
        >
          Put it back as it was
        </Button>
      ) : (
        <p className="hint mb-0">
          What it was is kept and can be put back. To have both,{" "}
          <button type="button" className="btn btn-link btn-sm p-0 align-baseline" onClick={copy}>
            copy the drawing
          </button>{" "}
          first.
        </p>
      )}
    </Fold>
  );
}

/** Tells that what it lies in is open. */
function Looked({ look }: { look: (open: boolean) => void }) {
  useEffect(() => {
    look(true);
    return () => look(false);
  }, [look]);
  return null;
}

const NUMBERS = [
  ["x", "Across by", "u"],
  ["y", "Down by", "u"],
  ["turn", "Turned by", "°"],
  ["size", "Size", "%"],
] as const;
const PAINTS = [
  ["fill", "Fill"],
  ["stroke", "Line"],
] as const;

function PartFields({
  part,
  at,
  count,
  touch,
}: {
  part: RetouchedPart;
  at: number;
  count: number;
  touch: (touch: TouchUp) => Promise<unknown>;
}) {
  const put = (given: Partial<TouchUp>) => void touch({ edit: "part", part: part.part, ...given });
  const to = (place: number) => void touch({ edit: "order", part: part.part, to: place });
  const { change } = part;
  return (
    <div className="mt-2" role="group" aria-label={`The part ${part.name}`}>
      <div className="d-flex gap-1 mb-1">
        <IconButton
          icon="layer-forward"
          label={`${part.name}: one step to the front`}
          disabled={at >= count - 1}
          onClick={() => to(at + 1)}
        />
        <IconButton
          icon="layer-backward"
          label={`${part.name}: one step to the back`}
          disabled={at <= 0}
          onClick={() => to(at - 1)}
        />
        <IconButton
          icon={change.out ? "eye" : "eye-slash"}
          label={change.out ? `Bring ${part.name} back` : `Leave ${part.name} out`}
          text={change.out ? "Bring back" : "Leave out"}
          onClick={() => put({ out: !change.out })}
        />
      </div>
      <div className="fields">
        {NUMBERS.map(([of, label, unit]) => (
          <Fragment key={of}>
            <label htmlFor={`part-${of}`}>{label}</label>
            <NumberField
              id={`part-${of}`}
              of={`PartChange.${of}`}
              value={change[of]}
              unit={unit}
              onCommit={(value) => put({ [of]: value })}
            />
          </Fragment>
        ))}
        {PAINTS.map(
          ([of, label]) =>
            part[of] && (
              <Fragment key={of}>
                <span className="faint">{label}</span>
                <ColourField
                  label={`${label} of the part`}
                  value={part[of]}
                  onCommit={(colour) => put({ [of]: colour })}
                />
              </Fragment>
            ),
        )}
      </div>
    </div>
  );
}
