/** Work that can wait until the page has nothing better to do: one piece at a time, in the order it was asked for. */

/** Milliseconds after which it is done whatever else goes on, and that a piece is taken to need. */
const LATEST = 600;
const NEEDS = 6;

const waiting = new Set<() => void>();
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
    if (deadline.didTimeout || deadline.timeRemaining() >= NEEDS) {
      const [next] = waiting;
      if (next) {
        waiting.delete(next);
        next();
      }
    }
    ask();
  });
}

/** Do something when the page is idle. Gives what takes it back. */
export function whenIdle(work: () => void): () => void {
  waiting.add(work);
  ask();
  return () => void waiting.delete(work);
}
