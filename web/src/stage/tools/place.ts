/** Placing loose pieces: drag to move, pull a handle to turn or scale, drag the pin to set the pivot. */
import type { Command, Point } from "../../api/types";
import { get, puppetOf, set, submitTried, tryCommand, tryPose } from "../../state/workshop";
import { pick, piecesAt } from "../pick";
import { Newest, type Hand, type Tool } from "../tool";

type Doing =
  | { what: "move"; from: Point }
  | { what: "turn" | "scale"; from: Point; piece: string }
  | { what: "pivot"; piece: string };

export class PlaceTool implements Tool {
  private doing: Doing | null = null;
  private readonly newest = new Newest();
  private command: Command | null = null;
  private fresh = false;

  begin(hand: Hand): boolean {
    const [kind, piece] = hand.handle?.split(":") ?? [];
    if (kind === "pin" && piece) {
      this.doing = { what: "pivot", piece };
      return true;
    }
    if ((kind === "turn" || kind === "scale") && piece) {
      this.doing = { what: kind, from: hand.at, piece };
      return true;
    }
    const found = piecesAt(hand.at);
    const chosen = get().pieces;
    this.fresh = !found.some((p) => chosen.includes(p));
    if (this.fresh || hand.shift) {
      const piece = pick(hand.at, false);
      if (hand.shift && piece) set({ pieces: chosen.includes(piece) ? chosen.filter((p) => p !== piece) : [...chosen, piece] });
      else set({ pieces: piece ? [piece] : [], isolated: get().isolated && !!piece });
    }
    if (!get().pieces.length || !found.length) return true;
    this.doing = { what: "move", from: hand.at };
    return true;
  }

  move(hand: Hand): void {
    const command = this.commandFor(hand);
    if (!command) return;
    this.command = command;
    this.newest.ask((done) =>
      tryCommand(command, (pose) => {
        if (this.doing) set({ pose });
        done();
      }),
    );
  }

  private commandFor(hand: Hand): Command | null {
    const puppet = get().puppet;
    if (!this.doing || !puppet) return null;
    switch (this.doing.what) {
      case "move": {
        let dx = hand.at[0] - this.doing.from[0];
        let dy = hand.at[1] - this.doing.from[1];
        if (hand.shift) [dx, dy] = Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy];
        return { do: "shift-pieces", puppet, pieces: get().pieces, dx, dy };
      }
      case "pivot":
        return { do: "set-pivot", puppet, piece: this.doing.piece, x: hand.at[0], y: hand.at[1] };
      default:
        return { do: "pull-piece", puppet, piece: this.doing.piece, pull: this.doing.what, grabbed: this.doing.from, hand: hand.at, whole_steps: hand.shift };
    }
  }

  end(hand: Hand, moved: boolean): void {
    const doing = this.doing;
    this.doing = null;
    this.newest.forget();
    if (!moved) {
      // A second click on the same place reaches the piece behind.
      if (doing?.what === "move" && !this.fresh && !hand.shift) {
        const piece = pick(hand.at, true);
        if (piece) set({ pieces: [piece] });
      }
      return;
    }
    if (!this.command) return;
    const command = this.command;
    this.command = null;
    void submitTried(command).then((done) => {
      if (done && doing?.what === "pivot") swing(doing.piece);
    });
  }

  cancel(): void {
    this.doing = null;
    this.command = null;
    this.newest.forget();
    set({ pose: null });
  }
}

/** Turn a piece a little to and fro about its pivot, and leave it as it was. */
export function swing(piece: string): void {
  const joint = puppetOf(get())?.pieces?.[piece]?.joint;
  if (!joint) return;
  const began = performance.now();
  const newest = new Newest();
  let over = false;
  const step = (now: number) => {
    const t = (now - began) / 900;
    if (t >= 1 || get().bench !== "pieces") {
      // An answer still on its way must not bring the swing back.
      over = true;
      set({ pose: null });
      return;
    }
    const angle = 22 * Math.sin(t * Math.PI * 4) * (1 - t);
    newest.ask((done) =>
      tryPose(0, { [`${joint}.turn`]: [angle] }, (pose) => {
        if (!over) set({ pose });
        done();
      }),
    );
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
}
