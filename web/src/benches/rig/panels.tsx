/** What the Rig bench says when nothing is selected. */
import type { Puppet } from "../../wire/types";
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
