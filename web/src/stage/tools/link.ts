/** Linking on the figure: drag from a piece to the piece it should hang on. */
import type { Point } from "../../api/types";
import { get, puppetOf, set, submit } from "../../state/workshop";
import { pick, piecesAt } from "../pick";
import { pieceOn } from "../scene";
import type { Hand, Tool } from "../tool";

export interface Reaching {
  from: string;
  to: Point;
  over: string | null;
}

export class LinkTool implements Tool {
  private from: string | null = null;

  constructor(private readonly show: (reaching: Reaching | null) => void) {}

  begin(hand: Hand): boolean {
    const [kind, named] = hand.handle?.split(":") ?? [];
    const puppet = puppetOf(get());
    const piece = kind === "joint" ? null : pick(hand.at, false);
    const joint = kind === "joint" ? named! : piece ? puppet?.pieces?.[piece]?.joint : null;
    const owner = joint ? pieceOn(joint) : null;
    set({ pieces: piece ? [piece] : owner ? [owner] : [], joint: joint ?? null });
    this.from = joint ?? null;
    return true;
  }

  private target(hand: Hand): string | null {
    const [kind, named] = hand.handle?.split(":") ?? [];
    if (kind === "joint" && named !== this.from) return named!;
    const puppet = puppetOf(get());
    const found = piecesAt(hand.at).map((p) => puppet?.pieces?.[p]?.joint);
    return found.find((j) => j && j !== this.from) ?? null;
  }

  move(hand: Hand): void {
    if (this.from) this.show({ from: this.from, to: hand.at, over: this.target(hand) });
  }

  end(hand: Hand, moved: boolean): void {
    const { puppet } = get();
    const [from, over] = [this.from, this.target(hand)];
    this.cancel();
    if (moved && from && over && puppet) void submit({ do: "link-joint", puppet, joint: from, parent: over });
  }

  cancel(): void {
    this.from = null;
    this.show(null);
  }
}
