/** What the stage tells a hand tool, and what a tool gives back: the drag that it began. */
import { get, type Pose, putBack, sameTrial, submitTried, tryCommand, tryOut } from "../session";
import type { Command, Point } from "../wire/types";

/** What of the overlay is under the pointer. */
export type Hit =
  | { kind: "joint" | "spin"; joint: string }
  | { kind: "limit"; end: "low" | "high"; joint: string }
  | { kind: "pin" | "turn" | "scale"; piece: string }
  | { kind: "way"; frame: number; end: "before" | "after" | null }
  | { kind: "point"; point: number }
  | { kind: "via"; point: number }
  | { kind: "frame"; part: "move" | "zoom" | "turn" }
  | { kind: "edge" | "axis" };

/** A hit from what an element of the overlay says of itself: its kind, and what it belongs to. */
export function hitOf(handle: string | null | undefined): Hit | null {
  const [kind, of, end] = handle?.split(":") ?? [];
  switch (kind) {
    case "joint":
    case "spin":
      return { kind, joint: of! };
    case "limit-low":
    case "limit-high":
      return { kind: "limit", end: kind === "limit-low" ? "low" : "high", joint: of! };
    case "pin":
    case "turn":
    case "scale":
      return { kind, piece: of! };
    case "way":
      return { kind, frame: Number(of), end: end === "before" || end === "after" ? end : null };
    case "point":
      return { kind, point: Number(of) };
    case "via":
      return { kind, point: Number(of) };
    case "frame":
      return { kind, part: of === "zoom" || of === "turn" ? of : "move" };
    case "edge":
    case "axis":
      return { kind };
    default:
      return null;
  }
}

export interface Hand {
  /** In stage units. */
  at: Point;
  hit: Hit | null;
  shift: boolean;
  alt: boolean;
  /** Whether what is taken is added to what is in hand: Shift or Ctrl. */
  adds: boolean;
  /** Pixels on the screen for one stage unit. */
  scale: number;
}

/** From the hand closing to its opening. It ends once: by `end`, or by `cancel`, which leaves no trace. */
export interface Drag {
  move(hand: Hand): void;
  /** The hand opens. `moved` says whether it went anywhere in between. */
  end(hand: Hand, moved: boolean): void;
  cancel(): void;
}

export interface Tool {
  /** The hand closes. Gives the drag that this begins, if it begins one. */
  begin(hand: Hand): Drag | null;
}

/** A drag that was only a click: `click` is called if the hand opens where it closed. */
export const clicking = (click: (hand: Hand) => void): Drag => ({
  move: () => undefined,
  end: (hand, moved) => {
    if (!moved) click(hand);
  },
  cancel: () => undefined,
});

/** Runs one question at a time and, of those asked meanwhile, only the newest. */
export class Newest {
  private running: Promise<unknown> | null = null;
  private next: (() => Promise<unknown>) | null = null;

  ask(question: () => Promise<unknown>): void {
    if (this.running) {
      this.next = question;
      return;
    }
    this.running = question().finally(() => {
      this.running = null;
      const next = this.next;
      this.next = null;
      if (next) this.ask(next);
    });
  }

  /** Once nothing is asked any more. */
  async still(): Promise<void> {
    while (this.running) await this.running;
  }

  forget(): void {
    this.next = null;
  }
}

interface Trying {
  /** The command that a hand at this place means; none if it means nothing. */
  command: (hand: Hand) => Command | null;
  /** The hand opened where it closed. */
  click?: (hand: Hand) => void;
  /** The command was made, or refused. */
  done?: (made: boolean) => void;
  /** What the open hand does, instead of making the last command. */
  make?: () => Promise<void>;
}

/** A drag that shows what a command would do wherever the hand is, and makes it when the hand opens. */
export function trying({ command, click, done, make }: Trying): Drag {
  const newest = new Newest();
  let last: Command | null = null;
  let over = false;
  return {
    move(hand) {
      const wanted = command(hand);
      if (!wanted) return;
      last = wanted;
      newest.ask(async () => {
        const pose = await tryCommand(wanted);
        if (pose && !over) tryOut({ pose });
      });
    },
    end(hand, moved) {
      over = true;
      newest.forget();
      if (!moved) click?.(hand);
      else if (make) void make();
      else if (last) void submitTried(last).then(done);
    },
    cancel() {
      over = true;
      newest.forget();
      putBack();
    },
  };
}

/** Shows what is asked for on the stage, as a slider asks: one question at a time and, of those asked meanwhile, only the
 * newest. What was keyed, put back or left while a question waited its turn is not tried any more. */
export function showing(): (question: () => Promise<Pose | null>) => void {
  const newest = new Newest();
  return (question) => {
    const same = sameTrial();
    newest.ask(async () => {
      const pose = same() ? await question() : null;
      if (pose && same()) tryOut({ pose });
    });
  };
}

/** Show tried poses one after the other, as a slider asks for them; what is tried already is kept. */
export function trier(
  ask: (tried: Record<string, number[]>) => Promise<Pose | null>,
): (channel: string, values: number[]) => void {
  const show = showing();
  return (channel, values) => show(() => ask({ ...get().pose?.tried, [channel]: values }));
}
