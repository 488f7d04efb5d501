/** Details of an element that is copied. */
import { motionsOf, submit, useWorkshop } from "../../session";
import { Fold } from "../../ui/Fold";
import { ColourField } from "../../ui/ColourField";
import { NumberRow } from "../../ui/fields";
import type { Copies, Shot } from "../../wire/types";
import { calledOf } from "./commands";
import { Select } from "../../ui/Select";

export function CopiesPanel({ shot, copies }: { shot: Shot; copies: Copies }) {
  const documents = useWorkshop((w) => w.documents);
  const motions = motionsOf(documents, copies.puppet);
  const put = (given: object) => void submit({ do: "set-copies", shot: shot.id, cast: copies.id, ...given });
  const spread = copies.spread ?? [200, 60];
  return (
    <Fold title="Copies">
      <div className="fields">
        <label htmlFor="x-motion">Each does</label>
        <Select id="x-motion" size="sm" value={copies.motion ?? ""} onChange={(e) => put({ motion: e.target.value })}>
          {!copies.motion && <option value="">nothing</option>}
          {motions.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </Select>
        <label htmlFor="x-on">Go along</label>
        <Select id="x-on" size="sm" value={copies.along ?? ""} onChange={(e) => put({ along: e.target.value || null })}>
          <option value="">with nobody</option>
          {Object.values(shot.cast ?? {}).map((c) =>
            c.kind === "member" ? (
              <option key={c.id} value={c.id}>
                with {calledOf(c)}
              </option>
            ) : null,
          )}
        </Select>
        <NumberRow
          id="x-count"
          label="How many"
          value={copies.count ?? 8}
          unit=""
          digits={0}
          min={1}
          max={400}
          onCommit={(v) => put({ count: Math.round(v) })}
        />
        <NumberRow
          id="x-wide"
          label="Across"
          value={spread[0]}
          unit="units"
          onCommit={(v) => put({ spread: [v, null] })}
        />
        <NumberRow
          id="x-high"
          label="Down"
          value={spread[1]}
          unit="units"
          onCommit={(v) => put({ spread: [null, v] })}
        />
        <NumberRow
          id="x-size"
          label="Size by"
          value={copies.size ?? 25}
          unit="± %"
          min={0}
          max={100}
          onCommit={(size) => put({ size })}
        />
        <NumberRow
          id="x-turn"
          label="Turn by"
          value={copies.turn ?? 0}
          unit="± °"
          min={0}
          max={180}
          onCommit={(turn) => put({ turn })}
        />
        <NumberRow
          id="x-opacity"
          label="Opacity by"
          value={copies.opacity ?? 20}
          unit="− %"
          min={0}
          max={100}
          onCommit={(opacity) => put({ opacity })}
        />
        <span className="faint">Tint</span>
        <ColourField label="Tint" value={copies.tint ?? "#ffffffff"} onCommit={(tint) => put({ tint })} />
        <NumberRow
          id="x-tinted"
          label="Tinted"
          value={copies.tinted ?? 0}
          unit="up to %"
          min={0}
          max={100}
          onCommit={(tinted) => put({ tinted })}
        />
        <NumberRow
          id="x-in"
          label="Fade in"
          value={copies.fade_in ?? 10}
          unit="% of loop"
          min={0}
          max={100}
          onCommit={(v) => put({ fade_in: v })}
        />
        <NumberRow
          id="x-out"
          label="Fade out"
          value={copies.fade_out ?? 25}
          unit="% of loop"
          min={0}
          max={100}
          onCommit={(v) => put({ fade_out: v })}
        />
        <NumberRow
          id="x-seed"
          label="Chance"
          value={copies.seed ?? 1}
          unit=""
          digits={0}
          min={0}
          max={2 ** 31 - 1}
          onCommit={(v) => put({ seed: Math.round(v) })}
        />
      </div>
      <p className="hint">
        They come one after the other, spread evenly over the loop, so that it always loops. Before the final pass they
        stand as they begin.
      </p>
    </Fold>
  );
}
