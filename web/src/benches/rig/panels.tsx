/** What the Rig bench says when nothing is selected, new joints by numbers, and the trial pose by numbers. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { JointFields, PlaceFields } from "../../parts/JointFields";
import { freshId, get, submit, tryPose, useSize, useWorkshop, pickOut } from "../../session";
import { jointPlace, sceneAt } from "../../stage/scene";
import { trier } from "../../stage/tool";
import { Fold } from "../../ui/Fold";
import { type ChannelKind, type Joint, type Point, type Puppet, ROOT } from "../../wire/types";
import type { Mode } from "./commands";

export function Hints({ puppet, mode }: { puppet: Puppet; mode: Mode }) {
  const joints = Object.values(puppet.joints ?? {});
  const bones = joints.filter((j) => !j.handle);
  const text: Record<Mode, string> = {
    link: "Drag from a piece to the piece it hangs on: hand to forearm, forearm to upper arm, upper arm to torso. The order does not matter, and nothing ever jumps.",
    joints:
      "Click along a limb, from the body outwards: each joint hangs on the one before. Select another joint to go on from there; Shift-click begins anew.",
    handles:
      "Select a piece (Alt-click) and click where it should be held. A handle hangs on the selected joint or handle.",
    paint: "Select a joint, then paint where it should pull more. Alt takes away.",
    try: "Pull anything, handles too. Nothing of it is kept.",
  };
  return (
    <div className="card-sheet">
      <h2 className="heading mb-1">{puppet.name}</h2>
      <p className="mb-1 small">
        {bones.length} joints, {bones.filter((j) => !j.parent).length} on the puppet itself
        {joints.length > bones.length ? `, ${joints.length - bones.length} handles` : ""}.
      </p>
      <p className="hint m-0">{text[mode]}</p>
    </div>
  );
}

/** Stage units below the selected joint at which the next one is proposed. */
const BELOW = 40;

/** A joint or handle by numbers. It hangs on the selected one, if there is one. */
export function NewJoint({ puppet, handle, joint }: { puppet: Puppet; handle: boolean; joint: Joint | undefined }) {
  const plan = useWorkshop((w) => w.plan);
  const [own, setOwn] = useState<{ of: string | undefined; at: Point } | null>(null);
  const scene = sceneAt(plan, null, 0, null);
  const held = joint && scene && jointPlace(scene, joint.id);
  const [w, h] = useSize();
  const at: Point =
    own && own.of === joint?.id ? own.at : held ? [held[0], held[1] + BELOW] : [Math.round(w / 2), Math.round(h / 2)];
  const what = handle ? "handle" : "joint";
  const add = () => {
    const id = freshId();
    void submit({
      do: "add-joints",
      puppet: puppet.id,
      joints: [{ id, at, parent: joint?.id ?? null, handle }],
      sheet: handle ? (get().pieces[0] ?? null) : null,
    }).then((done) => done && pickOut({ joint: id }));
  };
  return (
    <Fold title={`New ${what}`} note={joint ? `on ${joint.name}` : ""}>
      <div className="fields">
        <span className="faint">Place</span>
        <PlaceFields
          id="new-joint"
          of={`New ${what}`}
          at={at}
          put={([x, y]) => setOwn({ of: joint?.id, at: [x ?? at[0], y ?? at[1]] })}
        />
      </div>
      <Button size="sm" variant="outline-primary" className="mt-2" onClick={add}>
        Add the {what}
      </Button>
    </Fold>
  );
}

const tried = trier((values) => tryPose(0, values));

/** The pose that is only tried, by numbers. */
export function TrialCard({ puppet, joint }: { puppet: Puppet; joint: Joint | undefined }) {
  const now = useWorkshop((w) => w.pose?.tried);
  const whole = useWorkshop((w) => w.joint === ROOT);
  const id = joint?.id ?? (whole ? ROOT : null);
  if (!id) return null;
  const value = (kind: ChannelKind, neutral: number[]) => now?.[`${id}.${kind}`] ?? neutral;
  return (
    <Fold title="Trial pose" note={joint?.name ?? puppet.name}>
      <JointFields
        id="try"
        value={value}
        put={(kind, numbers) => {
          const before = value(kind, kind === "scale" ? [1, 1] : [0, 0]);
          tried(
            `${id}.${kind}`,
            numbers.map((v, k) => v ?? before[k]!),
          );
        }}
      />
    </Fold>
  );
}
