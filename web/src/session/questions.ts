/** Questions to the service: each is answered, refused or abandoned, and none is forgotten. */

export class Questions<Answer> {
  private readonly open = new Map<number, (answer: Answer | null) => void>();
  private last = 0;

  constructor(private readonly told: (waiting: boolean) => void = () => {}) {}

  /** Ask something. Resolves with the answer, or with null once it is refused or abandoned. */
  ask(send: (n: number) => boolean): Promise<Answer | null> {
    const n = ++this.last;
    return new Promise((resolve) => {
      this.open.set(n, resolve);
      this.told(true);
      if (!send(n)) this.settle(n, null);
    });
  }

  /** Question `n` has its answer; null says that there will be none. */
  settle(n: number, answer: Answer | null): void {
    const resolve = this.open.get(n);
    this.open.delete(n);
    resolve?.(answer);
    this.told(this.open.size > 0);
  }

  /** No more answers will come to what was asked until now. */
  abandon(): void {
    for (const n of [...this.open.keys()]) this.settle(n, null);
  }
}
