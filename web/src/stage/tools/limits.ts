/** Dragging an end of a joint's wedge; everything else goes to the bench's own tool. */
import { get, submit, tryCommand } from "../../session";
import type { Command } from "../../wire/types";
import { Newest, type Drag, type Hand, type Tool } from "../tool";

export interface Wedge {
  joint: string;
  low: number;
  high: number;
}

type Show = (wedge: Wedge | null) => void;

export const limitTool = (inner: Tool, show: Show): Tool => ({
  begin: (hand) => (hand.hit?.kind === "limit" ? opening(hand.hit.joint, hand.hit.end, show) : inner.begin(hand)),
});

function opening(joint: string, end: "low" | "high", show: Show): Drag {
  const newest = new Newest();
  let over = false;
  const pulled = (hand: Hand): Command | null => {
    const { puppet, pose } = get();
    const tried = pose?.tried ?? {};
    return puppet ? { do: "pull-limit", puppet, joint, end, hand: hand.at, whole_steps: hand.shift, tried } : null;
  };
  return {
    move(hand) {
      const command = pulled(hand);
      if (!command) return;
      newest.ask(async () => {
        const found = (await tryCommand(command))?.limits[joint];
        if (found && !over) show({ joint, low: found[0], high: found[1] });
      });
    },
    end(hand, moved) {
      over = true;
      newest.forget();
      const command = moved ? pulled(hand) : null;
      if (command) void submit(command).then(() => show(null));
      else show(null);
    },
    cancel() {
      over = true;
      newest.forget();
      show(null);
    },
  };
}
