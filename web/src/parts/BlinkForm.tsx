/** A blink made of what is there: which pieces show only while the eyes are shut, or only while they are open. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { freshId, get, submit } from "../session";
import { Select } from "../ui/Select";
import type { BlinkParts, Piece, Puppet } from "../wire/types";

/** What a piece does in a blink: nothing, or when it is seen; else the number of the drawing that it shows. */
type Does = "" | "shut" | "open" | number;

interface Props {
  puppet: Puppet;
  /** What blinks by its name. */
  told: BlinkParts;
  done: (dial: string | null) => void;
}

const doing = (told: BlinkParts, id: string): Does =>
  told.drawings?.[id] ?? (told.only_shut?.includes(id) ? "shut" : told.only_open?.includes(id) ? "open" : "");

export function BlinkForm({ puppet, told, done }: Props) {
  const named = [...(told.only_shut ?? []), ...(told.only_open ?? []), ...Object.keys(told.drawings ?? {})];
  const ids = [...new Set([...get().pieces, ...named])];
  const pieces = ids.flatMap((id) => puppet.pieces?.[id] ?? []);
  const [does, setDoes] = useState<Record<string, Does>>(() =>
    Object.fromEntries(ids.map((id) => [id, doing(told, id)])),
  );
  const of = (what: Does) => pieces.filter((p) => does[p.id] === what).map((p) => p.id);
  const drawings = Object.fromEntries(
    pieces.flatMap((p) => (typeof does[p.id] === "number" ? [[p.id, does[p.id] as number]] : [])),
  );
  const make = async () => {
    const dial = freshId();
    const blink = { only_shut: of("shut"), only_open: of("open"), drawings };
    if (await submit({ do: "make-blink", puppet: puppet.id, dial, ...blink })) done(dial);
  };
  return (
    <section className="mt-1" aria-label="A blink of what is there">
      {pieces.length ? (
        <div className="fields">
          {pieces.map((p) => (
            <Row key={p.id} piece={p} does={does[p.id] ?? ""} put={(d) => setDoes({ ...does, [p.id]: d })} />
          ))}
        </div>
      ) : (
        <p className="hint mt-0">Select the lids, or the eyes that have a drawing of them shut, and make it again.</p>
      )}
      <div className="d-flex gap-1 mt-1">
        <Button size="sm" disabled={!pieces.length} onClick={() => void make()}>
          Make the blink
        </Button>
        <Button size="sm" variant="outline-primary" onClick={() => done(null)}>
          Cancel
        </Button>
      </div>
    </section>
  );
}

function Row({ piece, does, put }: { piece: Piece; does: Does; put: (does: Does) => void }) {
  const id = `blink-${piece.id}`;
  const value = typeof does === "number" ? String(does) : does;
  return (
    <>
      <label htmlFor={id} className="text-truncate" title={piece.name}>
        {piece.name}
      </label>
      <Select
        id={id}
        size="sm"
        value={value}
        onChange={({ target }) =>
          put(/^\d+$/.test(target.value) ? Number(target.value) : (target.value as "" | "shut" | "open"))
        }
      >
        <option value="">stays as it is</option>
        <option value="shut">only while shut</option>
        <option value="open">only while open</option>
        {piece.drawings.length > 1 &&
          piece.drawings.map((d) => (
            <option key={d.id} value={d.number}>
              “{d.name}” while shut
            </option>
          ))}
      </Select>
    </>
  );
}
