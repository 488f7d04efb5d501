/** What the bench says of a puppet whose mouths nobody has told: which piece or dial has them. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { submit, type Bench } from "../../session";
import type { Puppet } from "../../wire/types";
import { Select } from "../../ui/Select";

export function NoChart({ puppet, go }: { puppet: Puppet; go: (bench: Bench) => void }) {
  const dials = Object.values(puppet.dials ?? {}).filter((d) => (d.stops ?? []).length > 1);
  const several = Object.values(puppet.pieces ?? {}).filter((p) => p.drawings.length > 1);
  const likely = several.find((p) => /mouth|lips/i.test(p.name)) ?? several[0];
  const [piece, setPiece] = useState<string | null>(null);
  const chosen = piece ?? likely?.id ?? dials[0]?.id ?? "";
  return (
    <section className="card-sheet" aria-label="Mouth chart">
      <h2 className="heading mb-1">Mouths</h2>
      {several.length || dials.length ? (
        <>
          <p className="hint mt-0">
            Choose the piece whose drawings are the mouths, or the dial that goes through them. Names tell which is
            which.
          </p>
          <div className="d-flex gap-1">
            <Select
              size="sm"
              aria-label="Piece with the mouths"
              value={chosen}
              onChange={(e) => setPiece(e.target.value)}
            >
              {several.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name} ({p.drawings.length} drawings)
                </option>
              ))}
              {dials.map((d) => (
                <option key={d.id} value={d.id}>
                  dial “{d.name}” ({d.stops!.length} stops)
                </option>
              ))}
            </Select>
            <Button
              size="sm"
              className="text-nowrap"
              onClick={() =>
                void submit({
                  do: "propose-mouths",
                  puppet: puppet.id,
                  ...(puppet.dials?.[chosen] ? { dial: chosen } : { piece: chosen }),
                })
              }
            >
              Make the chart
            </Button>
          </div>
        </>
      ) : (
        <>
          <p className="hint mt-0">
            No piece of “{puppet.name}” has several drawings. Add its mouths as drawings of one piece first.
          </p>
          <Button size="sm" onClick={() => go("pieces")}>
            Go to the Pieces bench
          </Button>
        </>
      )}
    </section>
  );
}
