/** A drawing taken apart: which of its parts become pieces, alone or joined, and which are left out. */
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { useWorkshop, type Choosing, see } from "../../session";
import type { DrawingPart } from "../../wire/types";
import { bring } from "../bringing";
import { several } from "../../ui/text";
import { fateOf, isIn, join, labelOf, leaveOut, open, type Chosen } from "./choosing";

export function ChooseParts() {
  const choosing = useWorkshop((w) => w.choosing);
  return choosing && <Sheet choosing={choosing} close={() => see({ choosing: null })} />;
}

const all = (parts: readonly DrawingPart[]): DrawingPart[] => parts.flatMap((p) => [p, ...all(p.parts)]);

function Sheet({ choosing, close }: { choosing: Choosing; close: () => void }) {
  const { file, bringing, found } = choosing;
  const [chosen, setChosen] = useState<Chosen[]>(found.pieces);
  const [checked, setChecked] = useState<ReadonlySet<string>>(new Set());
  const parts = all(found.tree);
  const ticked = parts.filter((p) => checked.has(p.path));
  const put = (next: Chosen[]) => {
    setChosen(next);
    setChecked(new Set());
  };
  const tick = (path: string, on: boolean) =>
    setChecked((before) => new Set(on ? [...before, path] : [...before].filter((p) => p !== path)));
  const rename = (at: number, name: string) => setChosen(chosen.map((c, i) => (i === at ? { ...c, name } : c)));
  return (
    <Modal show onHide={close} aria-labelledby="choose-title" scrollable size="xl" className="choose-parts">
      <Modal.Header closeButton>
        <Modal.Title id="choose-title">What becomes a piece</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <section aria-labelledby="choose-tree">
          <h3 className="h6" id="choose-tree">
            {file.name}
          </h3>
          <p className="hint m-0">
            {found.named ? "" : "Nothing in this drawing is named. "}
            Tick parts, then open them, join them into one piece, or leave them out.
          </p>
          <div className="doings" role="toolbar" aria-label="Ticked parts">
            <Button
              size="sm"
              variant="outline-primary"
              disabled={!ticked.some((p) => p.parts.length)}
              onClick={() => put(ticked.reduce((c, p) => open(c, p), chosen))}
            >
              Open
            </Button>
            <Button
              size="sm"
              variant="outline-primary"
              disabled={!ticked.length}
              onClick={() => put(join(chosen, ticked))}
            >
              {ticked.length > 1 ? "Join into one piece" : "Take as one piece"}
            </Button>
            <Button
              size="sm"
              variant="outline-primary"
              disabled={!ticked.length}
              onClick={() => put(leaveOut(chosen, ticked))}
            >
              Leave out
            </Button>
          </div>
          <ul className="parts">
            {found.tree.map((p) => (
              <Row key={p.path} part={p} chosen={chosen} checked={checked} tick={tick} />
            ))}
          </ul>
        </section>
        <section aria-labelledby="choose-pieces">
          <h3 className="h6" id="choose-pieces">
            {several(chosen.length, "piece")}
          </h3>
          <ul className="cut">
            {chosen.map((c, i) => (
              <li key={c.parts.join()} className="card-sheet">
                <span className="seen">
                  {parts
                    .filter((p) => c.parts.includes(p.path))
                    .slice(0, 4)
                    .map((p) => p.picture && <img key={p.path} src={p.picture} alt="" />)}
                </span>
                <Form.Control
                  size="sm"
                  value={c.name}
                  maxLength={120}
                  aria-label={`Name of piece ${i + 1}`}
                  onChange={(e) => rename(i, e.target.value)}
                />
                {c.parts.length > 1 && <span className="faint small">{c.parts.length} parts</span>}
              </li>
            ))}
          </ul>
          {!chosen.length && <p className="hint">Everything is left out.</p>}
        </section>
      </Modal.Body>
      <Modal.Footer>
        <Button variant="outline-primary" onClick={close}>
          Leave it
        </Button>
        <Button
          disabled={!chosen.length}
          onClick={() => {
            close();
            void bring([file], { purpose: bringing.purpose, target: bringing.target, chosen });
          }}
        >
          Bring in {several(chosen.length, "piece")}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}

interface RowProps {
  part: DrawingPart;
  chosen: readonly Chosen[];
  checked: ReadonlySet<string>;
  tick: (path: string, on: boolean) => void;
}

function Row({ part, chosen, checked, tick }: RowProps) {
  const fate = fateOf(chosen, part.path);
  // What is opened shows what is in it; so does whatever somebody opens to look.
  const [looked, setLooked] = useState<boolean | null>(null);
  const shown = looked ?? fate.opened;
  const label = labelOf(part);
  return (
    <li data-part={part.path}>
      <div className={`part${fate.own ? " own" : ""}${!fate.piece && !fate.opened ? " out" : ""}`}>
        {part.parts.length > 0 ? (
          <button
            type="button"
            className="btn btn-sm px-1"
            aria-expanded={shown}
            aria-label={`What is in ${label}`}
            onClick={() => setLooked(!shown)}
          >
            <i className={`bi bi-chevron-${shown ? "down" : "right"}`} aria-hidden="true" />
          </button>
        ) : (
          <span className="gap" />
        )}
        <Form.Check
          id={`part ${part.path}`}
          checked={checked.has(part.path)}
          onChange={(e) => tick(part.path, e.target.checked)}
          label={
            <>
              <span className="seen">{part.picture && <img src={part.picture} alt="" />}</span>
              {label}
            </>
          }
        />
        <span className="faint small ms-auto">
          {part.hidden ? "hidden, " : ""}
          {said(fate, part)}
        </span>
      </div>
      {shown && part.parts.length > 0 && (
        <ul className="parts">
          {part.parts.map((p) => (
            <Row key={p.path} part={p} chosen={chosen} checked={checked} tick={tick} />
          ))}
        </ul>
      )}
    </li>
  );
}

function said(fate: ReturnType<typeof fateOf>, part: DrawingPart): string {
  if (fate.opened) return "opened";
  if (!fate.piece) return "left out";
  if (fate.own && fate.piece.parts.length === 1) return "a piece";
  return fate.own || fate.piece.parts.some((p) => isIn(part.path, p)) ? `in ${fate.piece.name}` : "";
}
