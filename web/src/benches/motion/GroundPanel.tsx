/** Feet that stay, the ground under them, and travel that matches the stride. */
import { Button } from "react-bootstrap";
import { get, keep, submit, useWorkshop, see, pickOut } from "../../session";
import { plant } from "../../sheet/feet";
import { NumberField, NumberRow, SwitchRow } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import { Menu } from "../../ui/Menu";
import type { Motion, Plant, Puppet, HalfPlace } from "../../wire/types";

export function GroundPanel({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const report = useWorkshop((w) => w.report);
  const joint = useWorkshop((w) => w.joint);
  const snap = useWorkshop((w) => w.snap);
  const chosen = useWorkshop((w) => w.plant);
  const plants = Object.values(motion.plants ?? {});
  const feet = Object.keys(report?.motion === motion.id ? report.feet : {});
  const name = (id: string) => puppet.joints?.[id]?.name ?? "?";
  const can = joint && puppet.joints?.[joint]?.parent ? joint : (feet[0] ?? null);
  const held = chosen ? motion.plants?.[chosen] : undefined;
  const level = motion.ground?.level ?? report?.ground ?? 0;
  const runs = motion.ground?.runs;
  const put = (ground: { level?: number; runs?: number }) =>
    void submit({ do: "set-ground", motion: motion.id, level, runs, ...ground });
  const here = () => {
    const { frame, keys } = get();
    const frames = keys.map((k) => k.frame);
    const [first, last] = keys.length > 1 ? [Math.min(...frames), Math.max(...frames)] : [frame, frame + 7];
    if (can) void plant(motion.id, can, first, Math.max(1, last - first + 1));
  };
  return (
    <Fold title="Feet and ground" note={plants.length || undefined} open={feet.length > 0}>
      <div className="fields">
        <NumberRow
          id="ground-level"
          label="Ground at"
          value={level}
          unit="u"
          digits={2}
          onCommit={(v) => put({ level: v })}
        />
        <NumberRow
          id="ground-runs"
          label="Goes by"
          value={runs}
          unit="u/fr"
          digits={3}
          onCommit={(v) => put({ runs: v })}
        />
        <SwitchRow
          id="ground-snap"
          label="Moving"
          text="snaps to the ground"
          checked={snap}
          onChange={(on) => {
            keep("snap", on ? "yes" : "no");
            see({ snap: on });
          }}
        />
      </div>
      <div className="d-flex gap-1 flex-wrap my-2">
        <Menu
          label="Match travel to the stride"
          entries={[
            {
              text: "On the spot: the ground goes by",
              run: () => void submit({ do: "match-travel", motion: motion.id, travel: "spot" }),
            },
            {
              text: "Forward: the puppet goes on",
              run: () => void submit({ do: "match-travel", motion: motion.id, travel: "forward" }),
            },
          ]}
        >
          <i className="bi bi-signpost-split" aria-hidden="true" /> Match the stride
        </Menu>
        {can && (
          <Button size="sm" variant="outline-primary" onClick={here}>
            Plant “{name(can)}” here
          </Button>
        )}
      </div>
      {plants.length > 0 && (
        <div className="plants" role="group" aria-label="Planted">
          {plants.map((p) => (
            <button
              key={p.id}
              type="button"
              className="icon-btn"
              aria-pressed={p.id === chosen}
              onClick={() => pickOut({ plant: p.id === chosen ? null : p.id, joint: p.joint })}
            >
              {name(p.joint)}{" "}
              <span className="faint">
                {p.start + 1}–{((p.start + p.frames - 1) % motion.length) + 1}
              </span>
            </button>
          ))}
        </div>
      )}
      {held && <Planted key={held.id} plant={held} motion={motion.id} />}
      {!plants.length && (
        <p className="hint mt-0">
          A planted foot stays where it stands while the body moves. Drag in its row of the sheet, or plant it here.
        </p>
      )}
    </Fold>
  );
}

function Planted({ plant: held, motion }: { plant: Plant; motion: string }) {
  const change = (given: Omit<Partial<Plant>, "place"> & { place?: HalfPlace }) =>
    void submit({ do: "set-plant", motion, id: held.id, ...given });
  return (
    <div className="fields mt-2">
      <NumberRow
        id="plant-start"
        label="From frame"
        of="Plant.start"
        value={held.start}
        unit="fr"
        onCommit={(v) => change({ start: v })}
      />
      <NumberRow
        id="plant-frames"
        label="For"
        of="Plant.frames"
        value={held.frames}
        unit="fr"
        onCommit={(v) => change({ frames: v })}
      />
      <span className="faint">At</span>
      <div className="pair">
        <NumberField
          id="plant-x"
          label="Planted at, across"
          value={held.place[0]}
          unit="u"
          onCommit={(v) => change({ place: [v, null] })}
        />
        <NumberField
          id="plant-y"
          label="Planted at, down"
          value={held.place[1]}
          unit="u"
          onCommit={(v) => change({ place: [null, v] })}
        />
      </div>
      <NumberRow
        id="plant-fade"
        label="Led there over"
        of="Plant.fade"
        value={held.fade}
        unit="fr"
        onCommit={(v) => change({ fade: v })}
      />
      <SwitchRow
        id="plant-flat"
        label="Sole"
        text="lies flat"
        checked={held.flat}
        onChange={(on) => change({ flat: on })}
      />
      <span />
      <Button
        size="sm"
        variant="outline-danger"
        onClick={() => void submit({ do: "remove-plants", motion, ids: [held.id] })}
      >
        Let it go
      </Button>
    </div>
  );
}
