/** Changes on their way: sent one after the other, and again until they are acknowledged. */
import { patiently } from "../wire/http";

export type Saved = "saved" | "saving" | "waiting";

export interface OutboxEvents {
  saved(saved: Saved): void;
  /** The service said that it can't reach its database. */
  away(): void;
}

/** Pieces of work that are not done yet, also of productions that were left. */
let unfinished = 0;

/** Leaving the page now would lose what was changed. */
export const mustStay = (): boolean => unfinished > 0;

export class Outbox {
  private line: Promise<unknown> = Promise.resolve();
  private errands: Promise<unknown> = Promise.resolve();
  private open = 0;
  private closed = false;
  private last: Saved = "saved";

  constructor(private readonly events: OutboxEvents) {}

  /** Do a piece of work after all that was given before. What it needs to know it must know already. */
  put<T>(work: () => Promise<T>): Promise<T> {
    const result = this.counted(this.line.then(work, work));
    this.line = result.catch(() => undefined);
    return result;
  }

  /** Do a long piece of work after all that was given before, and hold nothing up that comes after it but another one. */
  errand<T>(work: () => Promise<T>): Promise<T> {
    const result = this.counted(Promise.all([this.line, this.errands]).then(work));
    this.errands = result.catch(() => undefined);
    return result;
  }

  private async counted<T>(work: Promise<T>): Promise<T> {
    unfinished++;
    // What was done just now is not saved, before anything of it was sent.
    if (this.open++ === 0) this.tell("saving");
    try {
      return await work;
    } finally {
      unfinished--;
      // What still waits is not saved.
      if (--this.open === 0) this.tell("saved");
    }
  }

  /** Send until there is an answer, a refusal included: within a piece of work. */
  async insist<T>(send: () => Promise<T>): Promise<T> {
    this.tell("saving");
    return patiently(send, (error) => {
      this.tell("waiting");
      if (error.problem.kind === "database-away" && !this.closed) this.events.away();
    });
  }

  private tell(saved: Saved): void {
    if (!this.closed && saved !== this.last) this.events.saved(saved);
    this.last = saved;
  }

  /** Nobody looks any more. What is on its way is still sent, to where it was meant to go. */
  close(): void {
    this.closed = true;
  }
}
