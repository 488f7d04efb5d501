/** Changes on their way: sent one after the other, and again until they are acknowledged. */
import { patiently } from "../wire/http";

export type Saved = "saved" | "saving" | "waiting";

export interface OutboxEvents {
  saved(saved: Saved): void;
  /** The service said that it can't reach its database. */
  away(): void;
}

export class Outbox {
  private line: Promise<unknown> = Promise.resolve();
  private closed = false;

  constructor(private readonly events: OutboxEvents) {}

  /** Do a piece of work after all that was given before. What it needs to know it must know already. */
  put<T>(work: () => Promise<T>): Promise<T> {
    const result = this.line.then(work, work);
    this.line = result.catch(() => undefined);
    return result;
  }

  /** Send until there is an answer, a refusal included. */
  async insist<T>(send: () => Promise<T>): Promise<T> {
    this.tell("saving");
    try {
      return await patiently(send, (error) => {
        this.tell("waiting");
        if (error.problem.kind === "database-away" && !this.closed) this.events.away();
      });
    } finally {
      this.tell("saved");
    }
  }

  private tell(saved: Saved): void {
    if (!this.closed) this.events.saved(saved);
  }

  /** Nobody looks any more. What is on its way is still sent, to where it was meant to go. */
  close(): void {
    this.closed = true;
  }
}
