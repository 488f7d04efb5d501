/** Work that can wait until the page has nothing better to do: one piece at a time, in the order it was asked for. */

/** Milliseconds after which a piece is done whatever else goes on, and that one is taken to need. */
const LATEST = 600;
const NEEDS = 6;

/** What waits, and since when: the page may have little moments all the time and never a long one. */
const waiting = new Map<() => void, number>();
let asked = false;

const idle: (work: (deadline: { timeRemaining(): number; didTimeout: boolean }) => void) => void =
  typeof requestIdleCallback === "function"
    ? (work) => void requestIdleCallback(work, { timeout: LATEST })
    : (work) => void setTimeout(() => work({ timeRemaining: () => NEEDS, didTimeout: true }), 20);

function ask(): void {
  if (asked || !waiting.size) return;
  asked = true;
  idle((deadline) => {
    asked = false;
    const [next] = waiting;
    if (next) {
      const [work, since] = next;
      const late = deadline.didTimeout || performance.now() - since >= LATEST;
      if (late || deadline.timeRemaining() >= NEEDS) {
        waiting.delete(work);
        work();
      }
    }
    ask();
  });
}

/** Do something when the page is idle. Gives what takes it back. */
export function whenIdle(work: () => void): () => void {
  waiting.set(work, performance.now());
  ask();
  return () => void waiting.delete(work);
}
