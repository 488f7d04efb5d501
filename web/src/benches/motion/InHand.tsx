/** What can be done to all joints in hand at once, at the frame that shows. */
import { get, motionOf, pickOut, useWorkshop } from "../../session";
import { several } from "../../ui/text";
import { IconButton } from "../../ui/bits";
import { Menu } from "../../ui/Menu";
import { framesOf } from "../../sheet/threads";
import { ROOT, type Channel, type Puppet } from "../../wire/types";
import { keyTried, toOtherSide, toRest } from "./commands";

/** What the joints in hand are called. */
export function namesOf(puppet: Puppet, joints: readonly string[]): string {
  const names = joints.map((id) => (id === ROOT ? puppet.name : (puppet.joints?.[id]?.name ?? "")));
  return names.length === 1 ? names[0]! : several(names.length, "joint");
}

/** The channels with keys of what is in hand. */
function channelsInHand(): [string, Channel][] {
  const { joints } = get();
  return Object.entries(motionOf(get())?.channels ?? {}).filter(([, c]) => joints.includes(c.joint));
}

/** Select the keys from which the gaps go on in which the frame lies, so that the timing chart is of them. */
function gapsHere(): void {
  const { spacing, frame } = get();
  const motion = motionOf(get());
  // On a ring the last gap leads over the end.
  const here = motion?.cycle ? [frame, frame + motion.length] : [frame];
  const keys = channelsInHand().flatMap(([channel]) => {
    const gap = spacing[channel]?.gaps.find(([start, end]) => here.some((f) => start <= f && f < end));
    return gap ? [{ channel, frame: gap[0] }] : [];
  });
  pickOut({ keys, poses: [] });
}

function allKeys(): void {
  const keys = channelsInHand().flatMap(([id, channel]) => framesOf(channel).map((frame) => ({ channel: id, frame })));
  pickOut({ keys, poses: [] });
}

export function InHand({ puppet }: { puppet: Puppet }) {
  const joints = useWorkshop((w) => w.joints);
  const limbs = useWorkshop((w) => w.plan?.limbs);
  const near = new Set(joints.map((id) => limbs?.[id]).filter((limb) => limb !== undefined));
  const limb = Object.keys(limbs ?? {}).filter((id) => puppet.joints?.[id] && near.has(limbs![id]!));
  const name = namesOf(puppet, joints);
  return (
    <div className="in-hand" role="group" aria-label={`What is done to ${name}`}>
      <IconButton icon="key" label="Key it in all that it can do" text="Key" keys="k" onClick={() => void keyTried()} />
      <Menu
        label="Back to rest"
        entries={[
          { text: `${joints.length === 1 ? `“${name}”` : name} (Shift R)`, run: () => void toRest() },
          limb.length > joints.length && {
            text: near.size === 1 ? `The whole ${[...near][0]!}` : `${near.size} whole limbs`,
            run: () => void toRest(limb),
          },
          { text: "Everything that is posed", run: () => void toRest(null) },
        ]}
      >
        To rest
      </Menu>
      <Menu
        label="The other side"
        entries={[
          { text: "Gets what this side holds", run: () => toOtherSide(false) },
          { text: "Swaps with this side", run: () => toOtherSide(true) },
        ]}
      >
        Other side
      </Menu>
      <Menu
        label="Keys of what is in hand"
        entries={[
          { text: "Ease the gaps at this frame", run: gapsHere },
          { text: "Select all their keys", run: allKeys },
        ]}
      >
        <i className="bi bi-three-dots" aria-hidden="true" />
      </Menu>
    </div>
  );
}
