/** Pulling on the path of a joint: a key of its place, or the handle of the path on one side of it. */
import { get, putBack, submitTried, tryWhole, tryOut, turnTo } from "../../session";
import type { Command } from "../../wire/types";
import { Newest, type Drag, type Hand, type Hit } from "../tool";

export function pullWay(hit: Extract<Hit, { kind: "way" }>): Drag | null {
  const { way, motion } = get();
  if (!way || !motion) return null;
  const newest = new Newest();
  let over = false;
  let last: Command | null = null;
  const command = (hand: Hand): Command => ({
    do: "pull-way",
    motion,
    joint: way.joint,
    frame: hit.frame,
    to: hand.at,
    end: hit.end,
    alone: hand.alt,
  });
  return {
    move(hand) {
      last = command(hand);
      const wanted = last;
      tryOut({ pulledWay: { frame: hit.frame, end: hit.end, at: hand.at } });
      newest.ask(async () => {
        const trial = await tryWhole(wanted);
        if (trial && !over) tryOut({ trial });
      });
    },
    end(_hand, moved) {
      over = true;
      newest.forget();
      if (!moved) turnTo({ frame: Math.min(hit.frame, (get().plan?.frames ?? 1) - 1), playing: false });
      if (last) void submitTried(last).then(() => tryOut({ pulledWay: null }));
      else tryOut({ pulledWay: null });
    },
    cancel() {
      over = true;
      newest.forget();
      tryOut({ pulledWay: null });
      putBack();
    },
  };
}
