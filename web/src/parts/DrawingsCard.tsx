/** The drawings a piece can show: choose, add, gather, name, order and line up. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Drawing, Piece, Puppet } from "../wire/types";
import { get, part, submit, pickOut } from "../session";
import { IconButton } from "../ui/bits";
import { Fold } from "../ui/Fold";
import { MorphView } from "../morph/MorphView";
import { LineUp } from "./lining/LineUp";
import { copyDrawing, shownDrawing } from "./shownDrawing";
import { DrawingThumb } from "./PieceSheet";
import { Row, Rows } from "../ui/Rows";
import { Select } from "../ui/Select";
import { TextField } from "../ui/fields";

export function DrawingsCard({ puppet, piece, add }: { puppet: Puppet; piece: Piece; add: () => void }) {
  const [lining, setLining] = useState(false);
  const [becoming, setBecoming] = useState(false);
  const shown = shownDrawing(piece);
  const sharers = Object.values(puppet.pieces ?? {}).filter(
    (p) => p.id !== piece.id && piece.shared && p.shared === piece.shared,
  );
  const at = piece.drawings.indexOf(shown);
  const drop = (moving: string, onto: string) => {
    const others = piece.drawings.filter((d) => d.id !== moving);
    put(
      moving,
      others.findIndex((d) => d.id === onto),
    );
  };
  const put = (moving: string, to: number) => {
    const order = piece.drawings.map((d) => d.id).filter((id) => id !== moving);
    order.splice(to, 0, moving);
    void submit({ do: "order-drawings", puppet: puppet.id, piece: piece.id, order });
  };
  return (
    <Fold
      title="Drawings"
      note={piece.drawings.length > 1 ? `${piece.drawings.length}` : "only one"}
      open={piece.drawings.length > 1}
    >
      <Rows
        kind="cards"
        label="Drawings of this piece"
        className="drawing-grid"
        ids={piece.drawings.map((d) => d.id)}
        chosen={[shown.id]}
        choose={(id) =>
          id !== shown.id && void submit({ do: "show-drawing", puppet: puppet.id, piece: piece.id, drawing: id })
        }
      >
        {piece.drawings.map((d) => (
          <Row
            key={d.id}
            id={d.id}
            chosen={d.id === shown.id}
            title={`Show ${d.name} at rest; drag to reorder`}
            carried={piece.drawings.length > 1 ? { kind: "drawing", id: d.id, name: d.name } : null}
            onto={{
              takes: ({ kind, id }) => kind === "drawing" && id !== d.id,
              drop: ({ id }) => drop(id, d.id),
            }}
          >
            <DrawingThumb drawing={d} flip={piece.fit?.sx < 0} width={64} height={46} />
            <span className="name">{d.name}</span>
          </Row>
        ))}
      </Rows>
      {piece.drawings.length > 1 && <DrawingName key={shown.id} puppet={puppet} piece={piece} drawing={shown} />}
      <div className="d-flex flex-wrap gap-1 mt-2">
        <Button size="sm" variant="outline-primary" onClick={add}>
          Add…
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          title="A version of the drawing that shows: change it, and this one stays"
          onClick={() => copyDrawing(puppet, piece)}
        >
          Copy
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          disabled={piece.drawings.length < 2}
          onClick={() => setLining(true)}
        >
          Line up…
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          disabled={piece.drawings.length < 2}
          title="How one drawing becomes another"
          onClick={() => setBecoming(true)}
        >
          Morph…
        </Button>
        {piece.drawings.length > 1 &&
          (["earlier", "later"] as const).map((way) => (
            <IconButton
              key={way}
              quiet
              icon={way === "earlier" ? "arrow-left" : "arrow-right"}
              label={`Put ${shown.name} one place ${way}`}
              disabled={
                at + (way === "earlier" ? -1 : 1) < 0 || at + (way === "later" ? 1 : 0) >= piece.drawings.length
              }
              onClick={() => put(shown.id, way === "earlier" ? at - 1 : at + 1)}
            />
          ))}
        <IconButton
          quiet
          icon="trash"
          label={`Remove the drawing ${shown.name}`}
          disabled={piece.drawings.length < 2}
          onClick={() =>
            void submit({ do: "remove-drawings", puppet: puppet.id, piece: piece.id, drawings: [shown.id] })
          }
        />
      </div>
      {sharers.length > 0 && (
        <p className="hint">
          Shared with {sharers.map((p) => p.name).join(", ")}.{" "}
          <button
            type="button"
            className="btn btn-link btn-sm p-0 align-baseline"
            onClick={() => void submit({ do: "share-drawings", puppet: puppet.id, pieces: [piece.id], share: false })}
          >
            Give it its own
          </button>
        </p>
      )}
      {becoming && (
        <MorphView
          puppet={puppet}
          piece={piece}
          first={shown.id}
          second={piece.drawings.find((d) => d.id !== shown.id)!.id}
          close={() => setBecoming(false)}
        />
      )}
      {lining && <LineUp puppet={puppet} piece={piece} close={() => setLining(false)} />}
    </Fold>
  );
}

function DrawingName({ puppet, piece, drawing }: { puppet: Puppet; piece: Piece; drawing: Drawing }) {
  return (
    <TextField
      className="mt-2"
      label="Name of the drawing"
      value={drawing.name}
      needed
      onCommit={(name) =>
        void submit({ do: "set-drawing", puppet: puppet.id, piece: piece.id, drawing: drawing.id, name })
      }
    />
  );
}

/** A piece of several parts: each becomes a piece of its own. */
export function SplitCard({ piece }: { piece: Piece }) {
  return (
    <Fold title="Parts" open={false}>
      <p className="hint mt-0">
        Each part of the drawing becomes a piece of its own and hangs on this one, which keeps its pin, links and keys.
      </p>
      <Button size="sm" variant="outline-primary" onClick={() => void part("split", [piece.id])}>
        Split into its parts
      </Button>
    </Fold>
  );
}

/** For several selected pieces: make one of them. */
export function JoinCard({ puppet, ids }: { puppet: Puppet; ids: string[] }) {
  const [into, setInto] = useState(ids[0]!);
  const kept = ids.includes(into) ? into : ids[0]!;
  return (
    <Fold title="One piece, one drawing" open={false}>
      <p className="hint mt-0">
        What moves together can be one piece. One of them keeps its pin, links and keys; what hung on the others hangs
        on it.
      </p>
      <Select
        size="sm"
        aria-label="The piece that keeps its pin and keys"
        value={kept}
        onChange={(e) => setInto(e.target.value)}
      >
        {ids.map((id) => (
          <option key={id} value={id}>
            into {puppet.pieces?.[id]?.name}
          </option>
        ))}
      </Select>
      <Button
        size="sm"
        variant="outline-primary"
        className="mt-2"
        onClick={() =>
          void part("join", [kept, ...ids.filter((id) => id !== kept)]).then(
            (done) => done && pickOut({ pieces: [kept] }),
          )
        }
      >
        Join
      </Button>
    </Fold>
  );
}

/** For several selected pieces: make them drawings of one, or let them share. */
export function GatherCard({ puppet, ids }: { puppet: Puppet; ids: string[] }) {
  const pieces = ids.map((id) => puppet.pieces?.[id]).filter((p) => p !== undefined);
  const [into, setInto] = useState(ids[0]!);
  const target = pieces.find((p) => p.id === into) ?? pieces[0]!;
  return (
    <Fold title="One piece, many drawings" open={false}>
      <p className="hint mt-0">
        Mouths, hands or views that came as pieces of their own can become drawings of one piece. Each stays where it
        stood; pictures without a place of their own are laid on it.
      </p>
      <Select
        size="sm"
        aria-label="The piece that keeps its place"
        value={target.id}
        onChange={(e) => setInto(e.target.value)}
      >
        {pieces.map((p) => (
          <option key={p.id} value={p.id}>
            into {p.name}
          </option>
        ))}
      </Select>
      <div className="d-flex gap-1 mt-2">
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() =>
            void submit({
              do: "gather-drawings",
              puppet: puppet.id,
              piece: target.id,
              others: ids.filter((id) => id !== target.id),
            })
          }
        >
          Gather
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          title="All show one set of drawings: what is done to those of one is done to all"
          onClick={() =>
            void submit({
              do: "share-drawings",
              puppet: get().puppet!,
              pieces: [target.id, ...ids.filter((id) => id !== target.id)],
              share: true,
            })
          }
        >
          Share
        </Button>
      </div>
    </Fold>
  );
}
