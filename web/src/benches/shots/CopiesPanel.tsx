/** Details of an element that is copied. */
import { motionsOf, submit, useWorkshop } from "../../session";
import { Fold } from "../../ui/Fold";
import { ColourField } from "../../parts/ColourField";
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
          of="Copies.count"
          value={copies.count}
          onCommit={(v) => put({ count: v })}
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
          of="Copies.size"
          value={copies.size}
          unit="± %"
          onCommit={(size) => put({ size })}
        />
        <NumberRow
          id="x-turn"
          label="Turn by"
          of="Copies.turn"
          value={copies.turn}
          unit="± °"
          onCommit={(turn) => put({ turn })}
        />
        <NumberRow
          id="x-opacity"
          label="Opacity by"
          of="Copies.opacity"
          value={copies.opacity}
          unit="− %"
          onCommit={(opacity) => put({ opacity })}
        />
        <span className="faint">Tint</span>
        <ColourField label="Tint" value={copies.tint} onCommit={(tint) => put({ tint })} />
        <NumberRow
          id="x-tinted"
          label="Tinted"
          of="Copies.tinted"
          value={copies.tinted}
          unit="up to %"
          onCommit={(tinted) => put({ tinted })}
        />
        <NumberRow
          id="x-in"
          label="Fade in"
          of="Copies.fade_in"
          value={copies.fade_in}
          unit="% of loop"
          onCommit={(v) => put({ fade_in: v })}
        />
        <NumberRow
          id="x-out"
          label="Fade out"
          of="Copies.fade_out"
          value={copies.fade_out}
          unit="% of loop"
          onCommit={(v) => put({ fade_out: v })}
        />
        <NumberRow id="x-seed" label="Chance" of="Copies.seed" value={copies.seed} onCommit={(v) => put({ seed: v })} />
      </div>
      <p className="hint">
        They come one after the other, spread evenly over the loop, so that it always loops. Before the final pass they
        stand as they begin.
      </p>
    </Fold>
  );
}
