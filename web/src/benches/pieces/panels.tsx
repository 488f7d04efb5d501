/** What the Pieces bench says of what is selected. */
import { Button } from "react-bootstrap";
import { shownDrawing } from "../../parts/shownDrawing";
import { PlaceFields } from "../../parts/JointFields";
import { ShapeCard } from "../../parts/ShapeCard";
import { get, submit, useWorkshop } from "../../session";
import { IconButton } from "../../ui/bits";
import { NumberField, TextField } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import { RidesOn } from "../../parts/AttachCard";
import { Select } from "../../ui/Select";
import type { Piece, Puppet, Side } from "../../wire/types";
import { addPoint, mirror, movePoint, pointsOf } from "./commands";
import type { PointEdit } from "./keys";
import { useAxis } from "./overlays";

export function Hints({ count, puppet }: { count: number; puppet: Puppet | undefined }) {
  return (
    <div className="card-sheet">
      <h2 className="heading mb-2">{count > 1 ? `${count} pieces selected` : "Loose pieces"}</h2>
      {count > 1 && puppet ? (
        <>
          <SidePicker puppet={puppet} ids={get().pieces} side={undefined} />
          <div className="fields mt-2">
            <label htmlFor="ride-all">Ride on</label>
            <RidesOn id="ride-all" puppet={puppet} pieces={get().pieces} />
          </div>
        </>
      ) : (
        <>
          <p className="hint mt-0">
            On this bench pieces lie loose, as on a table: moving one moves only it and its pin.
          </p>
          <p className="hint">Click picks what you see under the pointer. Click again to reach what lies behind.</p>
          <p className="hint">
            Drag the round pin of a selected piece to where it should turn; it swings once to show you.
          </p>
        </>
      )}
    </div>
  );
}

function SidePicker({ puppet, ids, side }: { puppet: Puppet; ids: string[]; side: Side | undefined }) {
  return (
    <div className="btn-group btn-group-sm w-100" role="group" aria-label="Side">
      {(["left", "centre", "right"] as const).map((s) => (
        <button
          key={s}
          type="button"
          className={`btn ${side === s ? "btn-primary" : "btn-outline-primary"}`}
          aria-pressed={side === s}
          onClick={() => void submit({ do: "set-pieces", puppet: puppet.id, pieces: ids, side: s })}
        >
          {s}
        </button>
      ))}
    </div>
  );
}

export function PieceDetails({ puppet, piece }: { puppet: Puppet; piece: Piece }) {
  const place = useWorkshop((w) => (w.pose?.places ?? w.plan?.places)?.[piece.id]);
  const put = (change: Partial<Record<"x" | "y" | "angle" | "sx" | "sy", number>>) => {
    void submit({ do: "place-piece", puppet: puppet.id, piece: piece.id, ...change });
  };
  return (
    <>
      <div className="card-sheet">
        <label htmlFor="piece-name" className="faint small">
          Name
        </label>
        <TextField
          key={piece.id}
          id="piece-name"
          className="mb-2"
          value={piece.name}
          needed
          onCommit={(name) => void submit({ do: "set-pieces", puppet: puppet.id, pieces: [piece.id], name })}
        />
        <SidePicker puppet={puppet} ids={[piece.id]} side={piece.side} />
      </div>
      {place && (
        <Fold title="Place of the pin">
          <div className="fields">
            <label htmlFor="piece-x">Across</label>
            <NumberField id="piece-x" value={place[0]} unit="u" onCommit={(x) => put({ x })} />
            <label htmlFor="piece-y">Down</label>
            <NumberField id="piece-y" value={place[1]} unit="u" onCommit={(y) => put({ y })} />
            <label htmlFor="piece-angle">Turn</label>
            <NumberField id="piece-angle" value={place[2]} unit="°" onCommit={(angle) => put({ angle })} />
            <label htmlFor="piece-sx">Width</label>
            <NumberField id="piece-sx" value={place[4] * 100} unit="%" onCommit={(v) => put({ sx: v / 100 })} />
            <label htmlFor="piece-sy">Height</label>
            <NumberField id="piece-sy" value={place[5] * 100} unit="%" onCommit={(v) => put({ sy: v / 100 })} />
            <span className="faint">Pin alone</span>
            <PlaceFields
              id="pin"
              of="Pin alone"
              at={[place[0], place[1]]}
              put={([x, y]) => void submit({ do: "set-pivot", puppet: puppet.id, piece: piece.id, x, y })}
            />
          </div>
          <div className="d-flex gap-1 mt-2">
            {(
              [
                ["cover", "Cover the stage"],
                ["fit", "Fit on the stage"],
              ] as const
            ).map(([how, label]) => (
              <Button
                key={how}
                size="sm"
                variant="outline-primary"
                onClick={() => void submit({ do: "fill-stage", puppet: puppet.id, piece: piece.id, how })}
              >
                {label}
              </Button>
            ))}
          </div>
          <p className="hint">
            u: stage units, from the stage's top left corner. The pin alone goes where it should turn, and the piece
            stays.
          </p>
        </Fold>
      )}
    </>
  );
}

/** Where the other side of what is selected is made, by number. */
export function OtherSide({ puppet }: { puppet: Puppet }) {
  const at = useAxis(puppet);
  const set = puppet.axis ?? null;
  if (at === undefined) return null;
  const put = (axis: number | "middle") => void submit({ do: "set-puppet", puppet: puppet.id, axis });
  return (
    <Fold title="Other side" note={set === null ? "in its middle" : `axis at ${Math.round(set)} u`} open={set !== null}>
      <div className="fields">
        <label htmlFor="mirror-axis">Axis</label>
        <NumberField id="mirror-axis" value={at} unit="u" onCommit={put} />
      </div>
      <p className="hint">
        {set === null
          ? "Where what it hangs on, or the body, has its pin. Carry the dashed line on the stage, or type: it is kept."
          : "Kept for this puppet, until it is let go."}
      </p>
      <div className="d-flex gap-1 mt-2">
        <Button size="sm" variant="outline-primary" onClick={mirror}>
          Make the other side
        </Button>
        {set !== null && (
          <Button size="sm" variant="outline-primary" onClick={() => put("middle")}>
            In the middle again
          </Button>
        )}
      </div>
    </Fold>
  );
}

interface ShapeProps {
  puppet: Puppet;
  piece: Piece;
  /** Whether its points are being edited. */
  editing: boolean;
  corner: number | null;
  choose: (point: number | null) => void;
  edit: (edit: PointEdit) => void;
  open: () => void;
}

/** How a shape drawn here is painted, and what can be done with its points. */
export function ShapePanel({ puppet, piece, editing, corner, choose, edit, open }: ShapeProps) {
  const { shape } = shownDrawing(piece);
  if (!shape) return null;
  return (
    <ShapeCard
      title="Shape"
      paint={shape}
      change={(given) =>
        void submit({
          do: "edit-shape",
          puppet: puppet.id,
          piece: piece.id,
          edit: "paint",
          ...given,
        })
      }
    >
      {editing ? (
        <PointFields puppet={puppet} piece={piece} points={shape.points.length} corner={corner} choose={choose} />
      ) : null}
      {editing ? (
        <div className="d-flex gap-1 mt-2">
          <Button size="sm" variant="outline-primary" disabled={corner === null} onClick={() => edit("corner")}>
            Corner
          </Button>
          <Button size="sm" variant="outline-primary" disabled={corner === null} onClick={() => edit("smooth")}>
            Smooth
          </Button>
          <IconButton
            quiet
            icon="plus-lg"
            label="Another point, halfway to the next"
            disabled={corner === null}
            onClick={() => void addPoint(corner!).then((done) => done && choose(corner! + 1))}
          />
          <IconButton
            quiet
            icon="trash"
            label="Remove the selected point"
            disabled={corner === null}
            onClick={() => edit("remove")}
          />
        </div>
      ) : (
        <Button size="sm" variant="outline-primary" className="mt-2" onClick={open}>
          Edit its points
        </Button>
      )}
    </ShapeCard>
  );
}

/** Which point of a shape is chosen, and where it is, by numbers. */
function PointFields({
  puppet,
  piece,
  points,
  corner,
  choose,
}: { puppet: Puppet; piece: Piece; points: number } & Pick<ShapeProps, "corner" | "choose">) {
  useWorkshop((w) => w.plan);
  useWorkshop((w) => w.pose);
  const at = corner === null ? undefined : pointsOf(puppet, piece)[corner];
  return (
    <div className="fields mt-2">
      <label htmlFor="point">Point</label>
      <Select
        id="point"
        size="sm"
        value={corner ?? ""}
        onChange={(e) => choose(e.target.value ? Number(e.target.value) : null)}
      >
        <option value="">none</option>
        {Array.from({ length: points }, (_, n) => (
          <option key={n} value={n}>
            {n + 1} of {points}
          </option>
        ))}
      </Select>
      {at && (
        <>
          <span className="faint">Place</span>
          <PlaceFields id="point" of="Point" at={at} put={(to) => void movePoint(corner!, to)} />
        </>
      )}
    </div>
  );
}
