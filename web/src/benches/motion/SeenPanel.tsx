/** What is seen on the stage besides the frame itself: onion skin and the path of the selected joint. */
import { setOnion, useWorkshop, see } from "../../session";
import { NumberField, NumberRow, SwitchRow } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import { Select } from "../../ui/Select";

export function SeenPanel() {
  const onion = useWorkshop((w) => w.onion);
  const way = useWorkshop((w) => w.wayShown);
  return (
    <Fold title="Seen on the stage" note={onion.on ? "onion skin" : undefined} open={false}>
      <div className="fields">
        <SwitchRow
          id="see-way"
          label="Path"
          text="of the selected joint"
          checked={way}
          onChange={(on) => see({ wayShown: on })}
        />
        <SwitchRow
          id="see-onion"
          label="Onion skin"
          text="earlier and later"
          checked={onion.on}
          onChange={(on) => setOnion({ on: on })}
        />
        {onion.on && (
          <>
            <label htmlFor="onion-by">Every</label>
            <div className="pair">
              {onion.by === "frames" && (
                <NumberField
                  id="onion-every"
                  label="Frames from one skin to the next"
                  of="onion.every"
                  value={onion.every}
                  unit="fr"
                  onCommit={(v) => setOnion({ every: v })}
                />
              )}
              <Select
                id="onion-by"
                size="sm"
                value={onion.by}
                onChange={(e) => setOnion({ by: e.target.value as "frames" | "poses" })}
              >
                <option value="frames">frames</option>
                <option value="poses">pose</option>
              </Select>
            </div>
            <span className="faint">How many</span>
            <div className="pair">
              <NumberField
                id="onion-before"
                label="Earlier ones"
                of="onion.count"
                value={onion.before}
                unit="before"
                onCommit={(v) => setOnion({ before: v })}
              />
              <NumberField
                id="onion-after"
                label="Later ones"
                of="onion.count"
                value={onion.after}
                unit="after"
                onCommit={(v) => setOnion({ after: v })}
              />
            </div>
            <label htmlFor="onion-look">Drawn</label>
            <Select
              id="onion-look"
              size="sm"
              value={onion.look}
              onChange={(e) => setOnion({ look: e.target.value as "filled" | "outline" })}
            >
              <option value="filled">filled</option>
              <option value="outline">as outlines</option>
            </Select>
            <NumberRow
              id="onion-strength"
              label="Strength"
              of="onion.strength"
              value={onion.strength}
              unit="%"
              onCommit={(v) => setOnion({ strength: v })}
            />
            <SwitchRow
              id="onion-limb"
              label="Only"
              text="the selected limb"
              checked={onion.limb}
              onChange={(on) => setOnion({ limb: on })}
            />
          </>
        )}
      </div>
    </Fold>
  );
}
