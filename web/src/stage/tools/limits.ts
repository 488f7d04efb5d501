/** Dragging an end of a joint's wedge; everything else goes to the bench's own tool. */
import { get, puppetOf, submit } from "../../state/workshop";
import { jointPlace, sceneNow } from "../scene";
import { restDirection } from "../Skeleton";
import type { Hand, Tool } from "../tool";

export class LimitTool implements Tool {
  private held: { joint: string; end: "low" | "high" } | null = null;

  constructor(
    private readonly inner: Tool,
    private readonly show: (limits: { joint: string; low: number; high: number } | null) => void,
  ) {}

  begin(hand: Hand): boolean {
    const [kind, joint] = hand.handle?.split(":") ?? [];
    this.held = kind === "limit-low" || kind === "limit-high" ? { joint: joint!, end: kind === "limit-low" ? "low" : "high" } : null;
    return this.held ? true : this.inner.begin(hand);
  }

  private limits(hand: Hand): { joint: string; low: number; high: number } | null {
    const [scene, puppet] = [sceneNow(), puppetOf(get())];
    const joint = this.held && puppet?.joints?.[this.held.joint];
    const at = this.held && scene && jointPlace(scene, this.held.joint);
    const away = this.held && scene && puppet ? restDirection(scene, puppet, this.held.joint) : null;
    if (!this.held || !joint?.limits || !at || away === null) return null;
    const pointed = ((Math.atan2(hand.at[1] - at[1], hand.at[0] - at[0]) - away) * 180) / Math.PI;
    const before = joint.limits[this.held.end];
    // Of all turns that look alike, the one nearest to where this end was.
    let value = pointed + 360 * Math.round((before - pointed) / 360);
    value = hand.shift ? Math.round(value / 15) * 15 : Math.round(value);
    const { low, high } = joint.limits;
    return this.held.end === "low" ? { joint: joint.id, low: Math.min(value, high), high } : { joint: joint.id, low, high: Math.max(value, low) };
  }

  move(hand: Hand): void {
    if (this.held) this.show(this.limits(hand));
    else this.inner.move(hand);
  }

  end(hand: Hand, moved: boolean): void {
    if (!this.held) return this.inner.end(hand, moved);
    const found = moved ? this.limits(hand) : null;
    this.held = null;
    const puppet = get().puppet;
    if (found && puppet) void submit({ do: "set-joints", puppet, joints: [found.joint], limits: { low: found.low, high: found.high } }).then(() => this.show(null));
    else this.show(null);
  }

  cancel(): void {
    if (this.held) this.show(null);
    this.held = null;
    this.inner.cancel();
  }
}
