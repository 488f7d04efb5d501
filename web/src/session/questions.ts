/** Questions to the service: each is answered, refused or passed over for a newer one, and none is forgotten. */

/** There is no answer, since a newer question took its place or the line is broken: it may be asked again. */
const PASSED = Symbol("passed over");
type Outcome<Answer> = Answer | null | typeof PASSED;

export class Questions<Answer> {
  private readonly open = new Map<number, (outcome: Outcome<Answer>) => void>();
  private last = 0;
  private line: Promise<unknown> = Promise.resolve();

  constructor(private readonly told: (waiting: boolean) => void = () => {}) {}

  /** Ask something. Resolves with the answer, or with null once it is refused or passed over. */
  async ask(send: (n: number) => boolean): Promise<Answer | null> {
    const outcome = await this.once(send);
    return outcome === PASSED ? null : outcome;
  }

  /**
   * Ask something that many want to know, of which only the newest would be answered: each when it is its turn, and
   * again while it is passed over. Whoever does not look any more (`live`) holds nobody up. Null if it is refused.
   */
  inTurn(send: (n: number) => boolean, live: () => boolean, pause = 150): Promise<Answer | null> {
    const asked = this.line.then(async () => {
      while (live()) {
        const outcome = await this.once(send);
        if (outcome !== PASSED) return outcome;
        await new Promise((go) => setTimeout(go, pause));
      }
      return null;
    });
    this.line = asked;
    return asked;
  }

  private once(send: (n: number) => boolean): Promise<Outcome<Answer>> {
    const n = ++this.last;
    return new Promise((resolve) => {
      this.open.set(n, resolve);
      this.told(true);
      if (!send(n)) this.pass(n);
    });
  }

  /** Question `n` has its answer; null says that it is refused. */
  settle(n: number, answer: Answer | null): void {
    this.close(n, answer);
  }

  /** Question `n` was passed over. */
  pass(n: number): void {
    this.close(n, PASSED);
  }

  private close(n: number, outcome: Outcome<Answer>): void {
    const resolve = this.open.get(n);
    this.open.delete(n);
    resolve?.(outcome);
    this.told(this.open.size > 0);
  }

  /** No more answers will come to what was asked until now. */
  abandon(): void {
    for (const n of [...this.open.keys()]) this.pass(n);
  }
}
