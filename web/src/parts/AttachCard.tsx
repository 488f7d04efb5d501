/** How a piece rides: rigidly on a joint, bending over several, or as a sheet that handles pull. */
import { useEffect, useState } from "react";
import { Button, Form } from "react-bootstrap";
import type { Piece, Puppet } from "../wire/types";
import { lookAtMesh, submit, useWorkshop, pickOut } from "../session";
import { NumberField, Slider } from "../ui/fields";
import { Fold } from "../ui/Fold";
import { Row, Rows } from "../ui/Rows";
import { Select } from "../ui/Select";

type Bend = Extract<NonNullable<Piece["attach"]>, { kind: "bend" }>;
type Sheet = Extract<NonNullable<Piece["attach"]>, { kind: "sheet" }>;
export type AttachMode = "handles" | "paint";

/** The joint that pieces ride on, of several at once where they share one. */
export function RidesOn({ id, puppet, pieces }: { id: string; puppet: Puppet; pieces: string[] }) {
  const on = new Set(pieces.map((p) => puppet.pieces?.[p]?.joint));
  const joints = Object.values(puppet.joints ?? {})
    .filter((j) => !j.handle)
    .sort((a, b) => a.name.localeCompare(b.name));
  return (
    <Select
      id={id}
      size="sm"
      value={on.size === 1 ? [...on][0] : ""}
      onChange={(e) => void submit({ do: "ride-pieces", puppet: puppet.id, pieces, joint: e.target.value })}
    >
      {on.size > 1 && (
        <option value="" disabled>
          several joints
        </option>
      )}
      {joints.map((j) => (
        <option key={j.id} value={j.id}>
          {pieces.length === 1 && j.id === pieces[0] ? `${j.name} (its own pin)` : j.name}
        </option>
      ))}
    </Select>
  );
}

export function AttachCard({
  puppet,
  piece,
  mode,
  to,
}: {
  puppet: Puppet;
  piece: Piece;
  mode: string;
  to: (mode: AttachMode | "link") => void;
}) {
  const attach = piece.attach ?? null;
  const base = { puppet: puppet.id, piece: piece.id };
  const kind = attach?.kind ?? "rigid";
  const choose = (next: string) => {
    if (next === "rigid") void submit({ do: "set-attach", ...base, attach: null }).then(() => to("link"));
    else if (next === "bend") void submit({ do: "bend-piece", ...base });
    else {
      to("handles");
      pickOut({ joint: piece.joint, pieces: [piece.id] });
    }
  };
  return (
    <Fold title="How it rides" note={{ rigid: "rigid", bend: "bends", sheet: "bend sheet" }[kind]} open>
      <div className="btn-group btn-group-sm w-100 mb-2" role="group" aria-label="How the piece rides">
        {(
          [
            ["rigid", "Rigid"],
            ["bend", "Bends"],
            ["sheet", "Sheet"],
          ] as const
        ).map(([id, label]) => (
          <button
            key={id}
            type="button"
            className={`btn ${kind === id ? "btn-primary" : "btn-outline-primary"}`}
            aria-pressed={kind === id}
            onClick={() => kind !== id && choose(id)}
          >
            {label}
          </button>
        ))}
      </div>
      {attach?.kind !== "bend" && (
        <div className="fields">
          <label htmlFor="rides-on">Rides on</label>
          <RidesOn id="rides-on" puppet={puppet} pieces={[piece.id]} />
        </div>
      )}
      {attach?.kind === "bend" && (
        <BendSettings puppet={puppet} piece={piece} bend={attach} painting={mode === "paint"} to={to} />
      )}
      {attach?.kind === "sheet" && (
        <SheetSettings puppet={puppet} piece={piece} sheet={attach} setting={mode === "handles"} to={to} />
      )}
      {kind === "rigid" && mode === "handles" && (
        <p className="hint">
          Click on the piece where it should be held: hip, knee, ankle, heel, ball, toe. The first handle makes it a
          bend sheet.
        </p>
      )}
    </Fold>
  );
}

function BendSettings({
  puppet,
  piece,
  bend,
  painting,
  to,
}: {
  puppet: Puppet;
  piece: Piece;
  bend: Bend;
  painting: boolean;
  to: (mode: AttachMode | "link") => void;
}) {
  const joint = useWorkshop((w) => w.joint);
  const joints = Object.values(puppet.joints ?? {}).filter(
    (j) => !j.handle && (bend.joints.includes(j.id) || !puppet.pieces?.[j.id] || j.id === piece.id),
  );
  const put = (given: { roundness?: number; reach?: Record<string, number | null>; dabs?: [] }) =>
    void submit({ do: "set-attach", puppet: puppet.id, piece: piece.id, attach: { kind: "bend", ...given } });
  const toggle = (id: string) => {
    const bends = !bend.joints.includes(id);
    void submit({ do: "bend-over", puppet: puppet.id, piece: piece.id, joint: id, bends });
  };
  const chosen = joint && bend.joints.includes(joint) ? joint : null;
  const reach = chosen ? bend.reach?.[chosen] : undefined;
  return (
    <>
      <div className="list card-sheet short mb-2" role="group" aria-label="Joints it bends over">
        {joints.map((j) => (
          <div key={j.id} className={`row-item${joint === j.id ? " chosen" : ""}`}>
            <Form.Check
              id={`bends-${j.id}`}
              aria-label={`bends over ${j.name}`}
              checked={bend.joints.includes(j.id)}
              disabled={bend.joints.includes(j.id) && bend.joints.length <= 2}
              onChange={() => toggle(j.id)}
            />
            <button
              type="button"
              className="name border-0 bg-transparent text-reset text-start p-0"
              onClick={() => (pickOut({ joint: j.id, pieces: [piece.id] }), lookAtMesh(piece.id, j.id))}
            >
              {j.name}
            </button>
          </div>
        ))}
      </div>
      <div className="fields">
        <label htmlFor="bend-round">Roundness</label>
        <NumberField
          id="bend-round"
          of="Bend.roundness"
          times={100}
          value={bend.roundness}
          unit="%"
          digits={0}
          onCommit={(v) => put({ roundness: v })}
        />
        {chosen && (
          <>
            <label htmlFor="bend-reach">Reaches</label>
            <div className="d-flex gap-1">
              <Form.Check
                id="bend-limit"
                aria-label={`Limit how far ${puppet.joints?.[chosen]?.name} reaches`}
                checked={reach !== undefined}
                onChange={(e) => put({ reach: { [chosen]: e.target.checked ? 60 : null } })}
              />
              {reach !== undefined ? (
                <NumberField
                  id="bend-reach"
                  of="Bend.reach"
                  value={reach}
                  unit="u"
                  onCommit={(v) => put({ reach: { [chosen]: v } })}
                />
              ) : (
                <span className="faint small">as far as it goes</span>
              )}
            </div>
          </>
        )}
      </div>
      <div className="d-flex gap-1 mt-2">
        <Button
          size="sm"
          variant={painting ? "primary" : "outline-primary"}
          onClick={() => (
            to(painting ? "link" : "paint"),
            lookAtMesh(piece.id, chosen ?? bend.joints[0]!),
            pickOut({ joint: chosen ?? bend.joints[0]! })
          )}
        >
          Paint weights
        </Button>
        {bend.dabs?.length > 0 && (
          <Button size="sm" variant="outline-primary" onClick={() => put({ dabs: [] })}>
            Clear painting
          </Button>
        )}
      </div>
      <Cost piece={piece.id} />
    </>
  );
}

function SheetSettings({
  puppet,
  piece,
  sheet,
  setting,
  to,
}: {
  puppet: Puppet;
  piece: Piece;
  sheet: Sheet;
  setting: boolean;
  to: (mode: AttachMode | "link") => void;
}) {
  const put = (given: { triangles?: number; margin?: number; turning?: Record<string, number | null> }) =>
    void submit({ do: "set-attach", puppet: puppet.id, piece: piece.id, attach: { kind: "sheet", ...given } });
  const [wanted, setWanted] = useState<number | null>(null);
  const shown = wanted ?? sheet.triangles;
  const joint = useWorkshop((w) => w.joint);
  const signature = JSON.stringify(sheet);
  useEffect(() => lookAtMesh(piece.id, null), [piece.id, signature]);
  const commit = (triangles: number) => {
    if (triangles !== sheet.triangles) put({ triangles });
    setWanted(null);
  };
  return (
    <>
      <Form.Label className="faint small mb-0 mt-2" htmlFor="sheet-triangles">
        About {shown} triangles
      </Form.Label>
      <Slider
        id="sheet-triangles"
        step={20}
        of="BendSheet.triangles"
        value={shown}
        onSlide={setWanted}
        onCommit={commit}
        onCancel={() => setWanted(null)}
      />
      <div className="fields">
        <label htmlFor="sheet-margin">Margin</label>
        <NumberField
          id="sheet-margin"
          of="BendSheet.margin"
          value={sheet.margin}
          unit="u"
          onCommit={(margin) => put({ margin })}
        />
      </div>
      <Rows
        kind="listbox"
        label="Handles of the sheet"
        className="card-sheet short my-2"
        ids={sheet.handles}
        chosen={joint ? [joint] : []}
        choose={(id) => pickOut({ joint: id, pieces: [piece.id] })}
      >
        {sheet.handles.map((id) => (
          <Row key={id} id={id} chosen={joint === id}>
            <i className="bi bi-diamond rusty" aria-hidden="true" />
            <span className="name">{puppet.joints?.[id]?.name}</span>
          </Row>
        ))}
      </Rows>
      {joint && sheet.handles.includes(joint) && (
        <div className="fields mb-2">
          <label htmlFor="sheet-patch">Turns a patch of</label>
          <NumberField
            key={joint}
            id="sheet-patch"
            of="patch.reach"
            value={sheet.turning?.[joint] ?? 0}
            unit="u"
            onCommit={(far) => put({ turning: { [joint]: far > 0 ? far : null } })}
          />
          <p className="hint across m-0">
            {sheet.turning?.[joint]
              ? "What lies so near to it turns as it is turned: a toe, a hand."
              : "At 0 it only pulls. With a patch it turns what is around it too: a toe, a hand."}
          </p>
        </div>
      )}
      <Button
        size="sm"
        variant={setting ? "primary" : "outline-primary"}
        onClick={() => to(setting ? "link" : "handles")}
      >
        Set handles
      </Button>
      <Cost piece={piece.id} />
    </>
  );
}

/** What bending costs here and now, and how well the mesh is shaped. */
function Cost({ piece }: { piece: string }) {
  const found = useWorkshop((w) => w.rig?.bends.find((b) => b.piece === piece));
  if (!found) return null;
  return (
    <p className="hint" data-cost={piece}>
      {found.triangles
        ? `${found.triangles} triangles, smallest angle ${found.smallest_angle}°, `
        : `${found.points} points, `}
      {found.milliseconds} ms a frame.
    </p>
  );
}
