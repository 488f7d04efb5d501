/** Dragging an end of a joint's wedge; everything else goes to the bench's own tool. */
import { get, puppetOf, submit } from "../../session";
import { jointPlace, sceneNow } from "../scene";
import { restDirection } from "../Skeleton";
import type { Drag, Hand, Tool } from "../tool";

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
  return {
    move: (hand) => show(wedgeAt(joint, end, hand)),
    end(hand, moved) {
      const wedge = moved ? wedgeAt(joint, end, hand) : null;
      const { puppet } = get();
      if (!wedge || !puppet) return show(null);
      const limits = { low: wedge.low, high: wedge.high };
      void submit({ do: "set-joints", puppet, joints: [joint], limits }).then(() => show(null));
    },
    cancel: () => show(null),
  };
}

function wedgeAt(id: string, end: "low" | "high", hand: Hand): Wedge | null {
  const [scene, puppet] = [sceneNow(), puppetOf(get())];
  const joint = puppet?.joints?.[id];
  const at = scene && jointPlace(scene, id);
  const away = scene && puppet ? restDirection(scene, puppet, id) : null;
  if (!joint?.limits || !at || away === null) return null;
  const pointed = ((Math.atan2(hand.at[1] - at[1], hand.at[0] - at[0]) - away) * 180) / Math.PI;
  const { low, high } = joint.limits;
  // Of all turns that look alike, the one nearest to where this end was.
  let value = pointed + 360 * Math.round((joint.limits[end] - pointed) / 360);
  value = hand.shift ? Math.round(value / 15) * 15 : Math.round(value);
  return end === "low"
    ? { joint: id, low: Math.min(value, high), high }
    : { joint: id, low, high: Math.max(value, low) };
}
