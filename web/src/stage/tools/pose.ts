/**
 * Posing: close on a piece and pull its joint. The pose under the hand is the core's answer to
 * where the hand is; what to do with the values when the hand opens is the bench's business.
 */
import { ROOT, type Pull } from "../../api/types";
import { drag, get, grab, puppetOf, set } from "../../state/workshop";
import { pick, piecesAt } from "../pick";
import { Newest, type Hand, type Tool } from "../tool";

export interface PoseWishes {
  pull(): Pull;
  /** Whether the whole puppet is meant, whatever piece is under the hand. */
  whole(): boolean;
  /** The hand opened on these values, tried at this frame. */
  done(tried: Record<string, number[]>, frame: number): void;
}

export class PoseTool implements Tool {
  private held = false;
  private closing: Hand | null = null;
  private joint: string | null = null;
  private way: Pull | null = null;
  private piece: string | null = null;
  private readonly newest = new Newest();
  private before: Record<string, number[]> = {};
  private released: (() => void) | null = null;

  constructor(private readonly wishes: PoseWishes) {}

  begin(hand: Hand): boolean {
    set({ playing: false });
    const [kind, named] = hand.handle?.split(":") ?? [];
    const puppet = puppetOf(get());
    let joint = kind === "joint" || kind === "spin" ? named! : null;
    // A handle's diamond moves it and its knob turns it, whatever pulling means for the rest.
    this.way = kind === "spin" ? "turn" : joint && puppet?.joints?.[joint]?.handle ? "move" : null;
    if (!joint) {
      const chosen = get().pieces[0];
      const under = piecesAt(hand.at);
      // Pulling what is selected wins over what lies in front of it.
      const piece = chosen && under.includes(chosen) ? chosen : pick(hand.at, false);
      if (!piece) {
        set({ pieces: [], joint: null });
        return true;
      }
      set({ pieces: [piece] });
      joint = puppet?.pieces?.[piece]?.joint ?? null;
      this.piece = piece;
    } else this.piece = null;
    this.joint = this.wishes.whole() && !this.way ? ROOT : joint;
    set({ joint: this.joint });
    this.closing = hand;
    return true;
  }

  move(hand: Hand): void {
    if (!this.joint) return;
    const frame = get().frame;
    if (!this.held && this.closing) {
      this.held = true;
      this.before = get().pose?.tried ?? {};
      grab(frame, this.joint, this.joint === ROOT ? null : this.piece, this.way ?? this.wishes.pull(), this.closing.at, this.before);
    }
    this.newest.ask((done) =>
      drag(hand.at, hand.shift, (pose) => {
        if (this.held || this.released) set({ pose });
        done();
        if (this.released && !this.newest.waiting) {
          const release = this.released;
          this.released = null;
          release();
        }
      }),
    );
  }

  end(hand: Hand, moved: boolean): void {
    const was = this.held;
    this.held = false;
    this.joint = null;
    if (!moved || !was) {
      if (!moved && this.closing && !hand.handle && this.clickedAgain()) {
        const piece = pick(hand.at, true);
        if (piece) set({ pieces: [piece], joint: this.wishes.whole() ? ROOT : (puppetOf(get())?.pieces?.[piece]?.joint ?? null) });
      }
      this.remember(hand);
      return;
    }
    const finish = () => {
      const pose = get().pose;
      if (pose) this.wishes.done(pose.tried, pose.frame);
    };
    // The answer to the last movement may still be on its way.
    if (this.newest.waiting) this.released = finish;
    else finish();
  }

  private lastClick: Hand["at"] | null = null;

  private clickedAgain(): boolean {
    const at = this.closing!.at;
    return this.lastClick !== null && Math.hypot(at[0] - this.lastClick[0], at[1] - this.lastClick[1]) < 4;
  }

  private remember(hand: Hand): void {
    this.lastClick = hand.at;
  }

  cancel(): void {
    this.held = false;
    this.joint = null;
    this.released = null;
    this.newest.forget();
    set({ pose: null });
  }
}
