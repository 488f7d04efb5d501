/** The ease of the selected gaps: even, slow out and in by percent, or held. */
import { Form } from "react-bootstrap";
import type { Ease, Motion } from "../wire/types";
import { submit, useWorkshop } from "../session";
import { NumberField } from "../ui/fields";

export function EasePanel({ motion }: { motion: Motion }) {
  const keys = useWorkshop((w) => w.keys);
  const spacing = useWorkshop((w) => w.spacing);
  const found = keys.map((k) => motion.channels?.[k.channel]?.keys?.[String(k.frame)]).filter((k) => k !== undefined);
  if (!found.length) return null;
  const kinds = new Set(found.map((k) => k.ease?.kind ?? "even"));
  const kind = kinds.size === 1 ? [...kinds][0] : undefined;
  const first = found[0]!.ease;
  const [out, into] = first?.kind === "slow" ? [first.out ?? 0, first.into ?? 0] : [0, 0];
  const apply = (ease: Ease) => void submit({ do: "ease-gaps", motion: motion.id, keys, ease: ease! });
  const slow = (o: number, i: number) =>
    apply(o === 0 && i === 0 ? { kind: "even" } : { kind: "slow", out: o, into: i });
  const channels = [...new Set(keys.map((k) => k.channel))];
  // What is chosen, as a drawing is, can't be added to.
  const chosen = channels.some((c) => motion.channels?.[c]?.kind === "show");
  const outside = new Set(channels.map((c) => motion.channels?.[c]?.outside ?? "hold"));
  const gap = spacing[keys[0]!.channel]?.gaps.find((g) => g[0] === keys[0]!.frame);
  const choices: [string, string, () => void, boolean][] = [
    ["Even", "Equal steps", () => apply({ kind: "even" }), kind === "even"],
    ["Slow", "Slow out of the key and into the next", () => slow(out || 50, into || 50), kind === "slow"],
    ["Hold", "Stays until the next key", () => apply({ kind: "hold" }), kind === "hold"],
  ];
  return (
    <div className="card-sheet">
      <h2 className="heading mb-2">
        {keys.length} {keys.length === 1 ? "key" : "keys"}: the way to the next
      </h2>
      <div className="btn-group btn-group-sm w-100 mb-2" role="group" aria-label="Ease">
        {choices.map(([name, tip, run, on]) => (
          <button
            key={name}
            type="button"
            title={tip}
            className={`btn ${on ? "btn-primary" : "btn-outline-primary"}`}
            aria-pressed={on}
            onClick={run}
          >
            {name}
          </button>
        ))}
      </div>
      <div className="fields">
        <span className="faint">Slow out, in</span>
        <div className="pair">
          <NumberField
            id="slow-out"
            label="Slow out"
            value={out}
            unit="%"
            digits={0}
            min={0}
            max={100}
            onCommit={(v) => slow(v, into)}
          />
          <NumberField
            id="slow-in"
            label="Slow in"
            value={into}
            unit="%"
            digits={0}
            min={0}
            max={100}
            onCommit={(v) => slow(out, v)}
          />
        </div>
      </div>
      {gap && <Ladder gap={gap} />}
      <div className="fields mt-2">
        <label htmlFor="outside">Beyond the keys</label>
        <Form.Select
          id="outside"
          size="sm"
          disabled={motion.cycle}
          value={outside.size === 1 ? [...outside][0] : ""}
          onChange={(e) =>
            e.target.value &&
            void submit({ do: "set-outside", motion: motion.id, channels, outside: e.target.value as "hold" })
          }
        >
          {outside.size > 1 && <option value="">(several)</option>}
          <option value="hold">hold</option>
          <option value="repeat">repeat</option>
          {!chosen && <option value="repeat-and-add">repeat and add</option>}
          <option value="back-and-forth">back and forth</option>
        </Form.Select>
      </div>
      {motion.cycle && <p className="hint">In a cycle the last key leads round to the first.</p>}
    </div>
  );
}

/** The in-betweens of one gap as rungs, where they really fall. */
function Ladder({ gap }: { gap: [number, number, number[]] }) {
  const [from, to, progress] = gap;
  const at = (p: number) => 10 + p * 200;
  return (
    <svg
      viewBox="0 0 220 40"
      className="w-100 mt-1"
      role="img"
      aria-label={`In-betweens from frame ${from + 1} to ${to + 1}`}
    >
      <line x1={10} x2={210} y1={20} y2={20} stroke="var(--ink)" strokeWidth={1.4} />
      {progress.slice(1).map((p, i) => (
        <line key={i} x1={at(p)} x2={at(p)} y1={12} y2={28} stroke="var(--ink)" strokeWidth={1.2} opacity={0.75} />
      ))}
      <circle cx={10} cy={20} r={5} fill="var(--violet)" />
      <circle cx={210} cy={20} r={5} fill="var(--card)" stroke="var(--ink)" strokeWidth={2} />
      <text x={10} y={39} fontSize={10.5} textAnchor="middle" fill="var(--faint)">
        {from + 1}
      </text>
      <text x={210} y={39} fontSize={10.5} textAnchor="middle" fill="var(--faint)">
        {to + 1}
      </text>
    </svg>
  );
}
