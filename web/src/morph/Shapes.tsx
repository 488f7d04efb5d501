/** Which shape becomes which, and how to have it otherwise. */
import { submit } from "../session";
import type { Becoming } from "../session/morphs";
import type { Morph } from "../wire/types";
import { Fold } from "../ui/Fold";
import { Select } from "../ui/Select";

interface ShapesProps {
  pair: { puppet: string; piece: string; first: string; second: string };
  whole: Morph;
  becoming: Becoming | null;
  light: (going: number | null) => void;
}

export function Shapes({ pair, whole, becoming, light }: ShapesProps) {
  if (!becoming || Math.max(...becoming.shapes) < 2) return null;
  const seen = new Set<number>();
  const rows = becoming.going
    .map((g, n) => ({ ...g, n }))
    .filter((g) => g.first !== null && !seen.has(g.first) && seen.add(g.first));
  const told = (shape: number, becomes: number | null) => void submit({ do: "pair-shapes", ...pair, shape, becomes });
  const alone = becoming.going.filter((g) => g.first === null && g.second !== null).length;
  return (
    <Fold title="Shapes" note={`${rows.length} and ${alone} new`} open={false}>
      <div className="morph-shapes">
        {rows.map((g) => (
          <div key={g.first} onMouseEnter={() => light(g.n)} onMouseLeave={() => light(null)}>
            <label htmlFor={`shape-${g.first}`}>{g.name || `Shape ${g.first! + 1}`}</label>
            <Select
              id={`shape-${g.first}`}
              size="sm"
              value={g.second ?? ""}
              onFocus={() => light(g.n)}
              onBlur={() => light(null)}
              onChange={(e) => told(g.first!, e.target.value === "" ? null : Number(e.target.value))}
            >
              <option value="">alone</option>
              {Array.from({ length: becoming.shapes[1] }, (_, k) => (
                <option key={k} value={k}>
                  {becoming.going.find((x) => x.second === k)?.name || `shape ${k + 1}`}
                </option>
              ))}
            </Select>
          </div>
        ))}
      </div>
      {(whole.pairs ?? []).length > 0 && (
        <button
          type="button"
          className="btn btn-link btn-sm p-0"
          onClick={() => void submit({ do: "set-morph", ...pair, pairs: [] })}
        >
          Let all pair by themselves
        </button>
      )}
    </Fold>
  );
}
