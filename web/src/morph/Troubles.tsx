/** What goes wrong on the way, where and how badly, and the marks that would mend it. */
import { Button } from "react-bootstrap";
import { freshId } from "../session";
import type { Becoming, Trouble } from "../session/morphs";
import type { Mark } from "../wire/types";

const WORDS: Record<Trouble["kind"], string> = {
  crosses: "crosses itself",
  "turned-over": "is turned over",
  shrinks: "shrinks",
  against: "goes against the rest",
};

interface TroublesProps {
  becoming: Becoming | null;
  step: number;
  steps: number;
  busy: boolean;
  go: (step: number) => void;
  take: (mark: Mark) => void;
}

export function Troubles({ becoming, step, steps, busy, go, take }: TroublesProps) {
  const found = becoming?.troubles ?? [];
  return (
    <section className="morph-troubles" aria-label="What goes wrong" aria-busy={busy}>
      <h3>What goes wrong</h3>
      {becoming && !found.length && (
        <p className="hint mt-0" role="status">
          Nothing: no outline crosses itself, turns over, shrinks or goes against the movement.
        </p>
      )}
      <ul>
        {found.map((t, n) => (
          <li key={n}>
            <button type="button" className="trouble-row" onClick={() => go(t.worst)}>
              <span>
                {becoming!.going[t.going]?.name || `Shape ${(becoming!.going[t.going]?.first ?? 0) + 1}`}{" "}
                {WORDS[t.kind]}
              </span>
              <Strip amounts={t.amounts} step={step} steps={steps} />
            </button>
          </li>
        ))}
      </ul>
      {(becoming?.advice ?? []).map((a, n) => (
        <div key={n} className="advice">
          <span>A mark here would mend {Math.round(100 * (1 - a.after / Math.max(a.before, 1e-9)))} % of it.</span>
          <Button size="sm" variant="outline-primary" onClick={() => take({ ...a.mark, id: freshId() })}>
            Set it
          </Button>
        </div>
      ))}
    </section>
  );
}

/** How bad it is at each step of the way. */
function Strip({ amounts, step, steps }: { amounts: Float32Array; step: number; steps: number }) {
  const wide = 4;
  return (
    <svg width={steps * wide} height={18} aria-hidden="true" className="trouble-strip">
      {[...amounts].map((a, k) => (
        <rect
          key={k}
          x={k * wide}
          y={18 - Math.ceil(17 * Math.min(1, a))}
          width={wide - 1}
          height={Math.ceil(17 * Math.min(1, a))}
        />
      ))}
      <path d={`M${step * wide + wide / 2 - 0.5} 0V18`} className="at" />
    </svg>
  );
}
