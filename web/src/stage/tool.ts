/** What the stage tells a hand tool. Each tool is a small state machine in a file of its own. */
import type { Point } from "../api/types";

export interface Hand {
  /** In stage units. */
  at: Point;
  /** What handle of the overlay is under the pointer, as its `data-handle` says. */
  handle: string | null;
  shift: boolean;
  alt: boolean;
  /** Pixels on the screen for one stage unit. */
  scale: number;
}

export interface Tool {
  /** The hand closes. Returns whether this tool takes it. */
  begin(hand: Hand): boolean;
  move(hand: Hand): void;
  /** The hand opens. `moved` says whether it went anywhere in between. */
  end(hand: Hand, moved: boolean): void;
  cancel(): void;
}

/** Runs one question at a time and, of those asked meanwhile, only the newest. */
export class Newest {
  private busy = false;
  private next: ((done: () => void) => void) | null = null;

  ask(question: (done: () => void) => void): void {
    if (this.busy) {
      this.next = question;
      return;
    }
    this.busy = true;
    question(() => {
      this.busy = false;
      const next = this.next;
      this.next = null;
      if (next) this.ask(next);
    });
  }

  /** Whether an answer is still to come. */
  get waiting(): boolean {
    return this.busy;
  }

  forget(): void {
    this.busy = false;
    this.next = null;
  }
}
