/** The weight brush: strokes over a piece that bends give the selected joint more of it, or less. */
import { get, lookAtMesh, set, submit } from "../../state/workshop";
import { pieceMatrix, sceneNow } from "../scene";
import { pick } from "../pick";
import type { Hand, Tool } from "../tool";

export interface Brush {
  /** In stage units. */
  radius: number;
  /** How much a touch adds, -1 to 1. */
  amount: number;
}

export class PaintTool implements Tool {
  private dabs: { joint: string; x: number; y: number; radius: number; amount: number }[] = [];
  private painting = false;

  constructor(
    private readonly brush: () => Brush,
    private readonly show: (at: [number, number] | null) => void,
  ) {}

  begin(hand: Hand): boolean {
    const { pieces, joint } = get();
    const [kind, named] = hand.handle?.split(":") ?? [];
    if (kind === "joint") {
      set({ joint: named! });
      if (pieces[0]) lookAtMesh(pieces[0], named!);
      return true;
    }
    if (!pieces[0] || !joint) {
      const found = pick(hand.at, false);
      if (found) set({ pieces: [found] });
      return true;
    }
    this.painting = true;
    this.dabs = [];
    this.touch(hand);
    return true;
  }

  private touch(hand: Hand): void {
    const { pieces, joint } = get();
    const scene = sceneNow();
    const m = scene && pieces[0] ? pieceMatrix(scene, pieces[0]) : null;
    if (!m || !joint) return;
    const det = m[0]! * m[3]! - m[1]! * m[2]!;
    if (Math.abs(det) < 1e-9) return;
    const [dx, dy] = [hand.at[0] - m[4]!, hand.at[1] - m[5]!];
    const { radius, amount } = this.brush();
    const size = Math.sqrt(Math.abs(det));
    const dab = { joint, x: (m[3]! * dx - m[2]! * dy) / det, y: (m[0]! * dy - m[1]! * dx) / det, radius: radius / size, amount: hand.alt ? -amount : amount };
    const last = this.dabs[this.dabs.length - 1];
    if (last && Math.hypot(last.x - dab.x, last.y - dab.y) < dab.radius / 4) return;
    this.dabs.push(dab);
  }

  move(hand: Hand): void {
    this.show(hand.at);
    if (this.painting) this.touch(hand);
  }

  end(): void {
    this.painting = false;
    this.show(null);
    const { puppet, pieces, joint } = get();
    const dabs = this.dabs.slice(0, 500);
    this.dabs = [];
    if (puppet && pieces[0] && dabs.length) void submit({ do: "paint-weights", puppet, piece: pieces[0], dabs }).then(() => lookAtMesh(pieces[0]!, joint));
  }

  cancel(): void {
    this.painting = false;
    this.dabs = [];
    this.show(null);
  }
}
