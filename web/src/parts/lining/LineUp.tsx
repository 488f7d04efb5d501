/** Drawings of a piece laid over one another, to line them up by hand, by guide lines or by their middles. */
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { submit } from "../../session";
import { IconButton } from "../../ui/bits";
import { NumberField, TrySlider } from "../../ui/fields";
import { Row, Rows } from "../../ui/Rows";
import type { Command, Drawing, Piece, Puppet } from "../../wire/types";
import { shownDrawing } from "../shownDrawing";
import { lineOf, LINES, SAID, type Line } from "./lines";
import { Overlaid } from "./Overlaid";

type By = Extract<Command, { do: "register-drawings" }>["by"];
const EDGES: readonly [By, string][] = [
  ["top", "align-top"],
  ["bottom", "align-bottom"],
  ["left", "align-start"],
  ["right", "align-end"],
];

export function LineUp({ puppet, piece, close }: { puppet: Puppet; piece: Piece; close: () => void }) {
  const [chosen, setChosen] = useState(shownDrawing(piece).id);
  const [others, setOthers] = useState(30);
  const drawing = piece.drawings.find((d) => d.id === chosen) ?? piece.drawings[0]!;
  const register = (by: By) =>
    void submit({ do: "register-drawings", puppet: puppet.id, piece: piece.id, to: drawing.id, by });
  const lined = LINES.some((line) => lineOf(drawing, line) !== null);
  return (
    <Modal show onHide={close} size="lg" aria-labelledby="lineup-title">
      <Modal.Header closeButton>
        <Modal.Title id="lineup-title">Line up the drawings of {piece.name}</Modal.Title>
      </Modal.Header>
      <Modal.Body className="d-flex gap-3">
        <Overlaid puppet={puppet} piece={piece} drawing={drawing} others={others} />
        <div className="flex-grow-1 shrinks">
          <Which piece={piece} drawing={drawing} choose={setChosen} />
          <Form.Label className="faint small mb-0" htmlFor="lineup-others">
            The others: {others} %
          </Form.Label>
          <TrySlider id="lineup-others" of="lineup.others" value={others} onSlide={setOthers} />
          {LINES.map((line) => (
            <Guide key={line} puppet={puppet} piece={piece} drawing={drawing} line={line} />
          ))}
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
          <div className="d-flex gap-1 mt-1" role="group" aria-label="Line up by one edge">
            {EDGES.map(([by, icon]) => (
              <IconButton key={by} icon={icon} label={`Line up by their ${by} edges`} onClick={() => register(by)} />
            ))}
          </div>
          <p className="hint">All of them line the others up with {drawing.name}.</p>
        </div>
      </Modal.Body>
    </Modal>
  );
}

function Which({ piece, drawing, choose }: { piece: Piece; drawing: Drawing; choose: (id: string) => void }) {
  return (
    <Rows
      kind="listbox"
      label="Which drawing to move"
      className="card-sheet which mb-2"
      ids={piece.drawings.map((d) => d.id)}
      chosen={[drawing.id]}
      choose={choose}
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
  );
}

/** A guide line of a drawing: whether it has one, and where. */
function Guide({ puppet, piece, drawing, line }: { puppet: Puppet; piece: Piece; drawing: Drawing; line: Line }) {
  const of = { puppet: puppet.id, piece: piece.id, drawing: drawing.id };
  const at = lineOf(drawing, line);
  return (
    <div className="d-flex align-items-center gap-2">
      <Form.Check
        id={`lineup-${line}`}
        type="switch"
        className="flex-grow-1"
        label={SAID[line].label}
        checked={at !== null}
        onChange={(e) =>
          void submit(
            e.target.checked ? { do: "nudge-guide", ...of, line } : { do: "set-drawing", ...of, [line]: null },
          )
        }
      />
      {at !== null && (
        <div className="guide-at">
          <NumberField
            id={`lineup-at-${line}`}
            label={SAID[line].field}
            value={at}
            unit="u"
            digits={2}
            onCommit={(to) => void submit({ do: "set-drawing", ...of, [line]: to })}
          />
        </div>
      )}
    </div>
  );
}
