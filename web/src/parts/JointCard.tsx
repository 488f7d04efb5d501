/** One joint or handle: what it hangs on, its side, role and limits. */
import { Button, Form } from "react-bootstrap";
import { CHOICES } from "../wire/facts.gen";
import type { Joint, Puppet, Side } from "../wire/types";
import { freshId, hangsOn, submit, useWorkshop, pickOut } from "../session";
import { IconButton } from "../ui/bits";
import { jointPlace, sceneAt } from "../stage/scene";
import { PlaceFields } from "./JointFields";
import { NumberField, TextField } from "../ui/fields";
import { Select } from "../ui/Select";

const ROLES = CHOICES["Joint.role"];
type Role = (typeof ROLES)[number];
const WORLD = ":world";

interface Given {
  name?: string;
  side?: Side;
  role?: Role | null;
  limits?: { low?: number; high?: number } | null;
}

export function JointCard({ puppet, joint: found }: { puppet: Puppet; joint: Joint }) {
  const rig = useWorkshop((w) => (w.rig?.puppet === puppet.id ? w.rig : null));
  const plan = useWorkshop((w) => w.plan);
  const scene = plan?.puppet === puppet.id ? sceneAt(plan, null, 0, null) : null;
  const place = scene && jointPlace(scene, found.id);
  const change = (given: Given) => void submit({ do: "set-joints", puppet: puppet.id, joints: [found.id], ...given });
  const guessed = rig?.roles[found.id];
  const twin = rig?.twins[found.id];
  const remove = () =>
    void submit({ do: "remove-joints", puppet: puppet.id, joints: [found.id] }).then(
      (done) => done && pickOut({ joint: null }),
    );
  const insert = () => {
    const id = freshId();
    void submit({ do: "insert-joint", puppet: puppet.id, id, name: `${found.name} upper`, above: found.id }).then(
      (done) => done && pickOut({ joint: id }),
    );
  };
  return (
    <div className="card-sheet">
      <div className="d-flex align-items-center gap-1 mb-2">
        <TextField
          key={found.id}
          label={`Name of the ${found.handle ? "handle" : "joint"}`}
          value={found.name}
          needed
          onCommit={(name) => change({ name })}
        />
        {!found.handle && (
          <IconButton
            quiet
            icon="node-plus"
            label="Insert a joint above this one"
            onClick={insert}
            disabled={!found.parent}
          />
        )}
        <IconButton
          quiet
          icon="trash"
          label={`Remove this ${found.handle ? "handle" : "joint"}; nothing else moves`}
          onClick={remove}
        />
      </div>
      <div className="fields">
        <HangsOn puppet={puppet} joint={found} />
        {place && (
          <>
            <span className="faint">Place</span>
            <PlaceFields
              id="joint"
              of={found.name}
              at={place}
              put={(to) => void submit({ do: "place-joint", puppet: puppet.id, joint: found.id, at: to })}
            />
          </>
        )}
        <label htmlFor="joint-side">Side</label>
        <Select id="joint-side" size="sm" value={found.side} onChange={(e) => change({ side: e.target.value as Side })}>
          {["left", "centre", "right"].map((s) => (
            <option key={s}>{s}</option>
          ))}
        </Select>
        {!found.handle && (
          <>
            <label htmlFor="joint-role">Role</label>
            <Select
              id="joint-role"
              size="sm"
              value={found.role ?? ""}
              onChange={(e) => change({ role: (e.target.value || null) as Role | null })}
            >
              <option value="">{guessed ? `${guessed} (guess)` : "none"}</option>
              {ROLES.map((r) => (
                <option key={r}>{r}</option>
              ))}
            </Select>
          </>
        )}
      </div>
      {!found.handle && <TurnLimits limits={found.limits} change={change} />}
      {twin && puppet.joints?.[twin] && (
        <Button
          size="sm"
          variant="outline-primary"
          className="mt-2 w-100"
          title="Its place mirrored, its limits and role, and how its pieces bend"
          onClick={() => void submit({ do: "match-twin", puppet: puppet.id, joint: found.id })}
        >
          Make {puppet.joints[twin]!.name} match
        </Button>
      )}
    </div>
  );
}

/** What a joint hangs on. */
function HangsOn({ puppet, joint: found }: { puppet: Puppet; joint: Joint }) {
  const joints = puppet.joints ?? {};
  // What hangs on it can't carry it.
  const others = Object.values(joints).filter(
    (j) => j.id !== found.id && (found.handle || !j.handle) && !hangsOn(joints, j.id, found.id),
  );
  return (
    <>
      <label htmlFor="hangs-on">Hangs on</label>
      <Select
        id="hangs-on"
        size="sm"
        value={found.world ? WORLD : (found.parent ?? "")}
        onChange={(e) => {
          const world = e.target.value === WORLD;
          void submit({
            do: "link-joint",
            puppet: puppet.id,
            joint: found.id,
            parent: world ? null : e.target.value || null,
            world,
          });
        }}
      >
        <option value="">the puppet itself</option>
        {found.handle && <option value={WORLD}>the world: it stays</option>}
        {others
          .sort((a, b) => a.name.localeCompare(b.name))
          .map((j) => (
            <option key={j.id} value={j.id}>
              {j.name}
            </option>
          ))}
      </Select>
    </>
  );
}

/** How far a joint turns. */
function TurnLimits({ limits, change }: { limits: Joint["limits"]; change: (given: Given) => void }) {
  return (
    <>
      <Form.Check
        id="limit-turn"
        type="switch"
        className="mt-2"
        label="Limit its turn"
        checked={!!limits}
        onChange={(e) => change({ limits: e.target.checked ? { low: -60, high: 60 } : null })}
      />
      {limits && (
        <div className="pair mt-1">
          <NumberField
            id="limit-low"
            label="From"
            of="Limits.low"
            value={limits.low}
            unit="°"
            max={limits.high}
            onCommit={(low) => change({ limits: { low } })}
          />
          <NumberField
            id="limit-high"
            label="To"
            of="Limits.high"
            value={limits.high}
            unit="°"
            min={limits.low}
            onCommit={(high) => change({ limits: { high } })}
          />
        </div>
      )}
    </>
  );
}
