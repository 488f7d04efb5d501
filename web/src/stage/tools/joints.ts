/** Drawing the skeleton: click to add a joint to the selected one, drag to move one; handles the same way. */
import type { Command, Point } from "../../api/types";
import { freshId, get, puppetOf, set, submit, submitTried, tryCommand } from "../../state/workshop";
import { pick } from "../pick";
import { pieceOn } from "../scene";
import { Newest, type Hand, type Tool } from "../tool";

export interface JointWishes {
  /** Whether handles are set, and not joints. */
  handles: boolean;
  /** The piece whose sheet new handles pull, if any. */
  sheet(): string | null;
}

export class JointTool implements Tool {
  private held: string | null = null;
  private from: Point | null = null;
  private command: Command | null = null;
  private readonly newest = new Newest();

  constructor(private readonly wishes: JointWishes) {}

  begin(hand: Hand): boolean {
    const [kind, named] = hand.handle?.split(":") ?? [];
    this.held = kind === "joint" || kind === "spin" ? named! : null;
    this.from = hand.at;
    if (this.held) {
      const piece = pieceOn(this.held);
      set({ joint: this.held, pieces: piece ? [piece] : this.wishes.handles ? get().pieces : [] });
    }
    return true;
  }

  move(hand: Hand): void {
    const puppet = get().puppet;
    if (!this.held || !this.from || !puppet) return;
    let [dx, dy] = [hand.at[0] - this.from[0], hand.at[1] - this.from[1]];
    if (hand.shift) [dx, dy] = Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];
    const command: Command = { do: "move-joints", puppet, joints: [this.held], dx, dy };
    this.command = command;
    this.newest.ask((done) =>
      tryCommand(command, (pose) => {
        if (this.held) set({ pose });
        done();
      }),
    );
  }

  end(hand: Hand, moved: boolean): void {
    const [held, command] = [this.held, this.command];
    this.held = null;
    this.command = null;
    this.newest.forget();
    if (held) {
      if (moved && command) void submitTried(command);
      return;
    }
    if (moved) return;
    if (hand.alt) {
      // Picking what the next handles pull, without setting one.
      const found = pick(hand.at, true);
      if (found) set({ pieces: [found] });
      return;
    }
    this.add(hand);
  }

  private add(hand: Hand): void {
    const puppet = puppetOf(get());
    if (!puppet) return;
    const { handles } = this.wishes;
    const chosen = get().joint;
    const parent = !hand.shift && chosen && puppet.joints?.[chosen] ? puppet.joints[chosen]! : null;
    const noun = handles ? "handle" : "joint";
    const taken = new Set(Object.values(puppet.joints ?? {}).map((j) => j.name));
    let n = 1;
    while (taken.has(`${noun} ${n}`)) n++;
    const id = freshId();
    // A joint never hangs on a handle; a handle hangs on whatever is selected.
    const above = parent && (handles || !parent.handle) ? parent.id : null;
    const joint = { id, name: `${noun} ${n}`, at: hand.at, parent: above, handle: handles };
    void submit({ do: "add-joints", puppet: puppet.id, joints: [joint], sheet: handles ? this.wishes.sheet() : null }).then((done) => done && set({ joint: id }));
  }

  cancel(): void {
    this.held = null;
    this.command = null;
    this.newest.forget();
    set({ pose: null });
  }
}
