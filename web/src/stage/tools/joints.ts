/** Drawing the skeleton: click to add a joint to the selected one, drag to move one; handles the same way. */
import { minus } from "../../geometry";
import { freshId, get, puppetOf, submit, pickOut } from "../../session";
import type { Command } from "../../wire/types";
import { pick } from "../pick";
import { pieceOn } from "../scene";
import { clicking, trying, type Drag, type Hand, type Tool } from "../tool";

export interface JointWishes {
  /** Whether handles are set, and not joints. */
  handles: boolean;
  /** The piece whose sheet new handles pull, if any. */
  sheet(): string | null;
}

export const jointTool = (wishes: JointWishes): Tool => ({
  begin(hand) {
    const { hit } = hand;
    if (hit?.kind === "joint" || hit?.kind === "spin") {
      const piece = pieceOn(hit.joint);
      pickOut({ joint: hit.joint, pieces: piece ? [piece] : wishes.handles ? get().pieces : [] });
      return moving(hit.joint, hand);
    }
    return clicking((at) => (at.alt ? choose(at) : add(at, wishes)));
  },
});

function moving(joint: string, from: Hand): Drag {
  return trying({
    command: (hand) => {
      const { puppet } = get();
      const [dx, dy] = minus(hand.at, from.at);
      return puppet ? { do: "move-joints", puppet, joints: [joint], dx, dy, one_way: hand.shift } : null;
    },
  });
}

/** Picking what the next handles pull, without setting one. */
function choose(hand: Hand): void {
  const found = pick(hand.at, true);
  if (found) pickOut({ pieces: [found] });
}

function add(hand: Hand, { handles, sheet }: JointWishes): void {
  const puppet = puppetOf(get());
  if (!puppet) return;
  const chosen = get().joint;
  const parent = !hand.shift && chosen && puppet.joints?.[chosen] ? chosen : null;
  const id = freshId();
  const joint = { id, at: hand.at, parent, handle: handles };
  const command: Command = { do: "add-joints", puppet: puppet.id, joints: [joint], sheet: handles ? sheet() : null };
  void submit(command).then((done) => done && pickOut({ joint: id }));
}
