/** Small steps of one kind, as the arrows make them: while one is on its way, those that follow become one. */

interface Step {
  /** What they must have in common to become one. */
  of: string;
  dx: number;
  dy: number;
}

/** Give each step to this; `send` is called with a step, or with several in one, never with two at a time. */
export function gathered(send: (dx: number, dy: number, of: string) => Promise<unknown>) {
  const waiting: Step[] = [];
  let going = false;
  const next = (): void => {
    const step = waiting.shift();
    going = step !== undefined;
    if (step) void send(step.dx, step.dy, step.of).finally(next);
  };
  return (of: string, dx: number, dy: number): void => {
    const last = waiting.at(-1);
    if (last?.of === of) {
      last.dx += dx;
      last.dy += dy;
    } else waiting.push({ of, dx, dy });
    if (!going) next();
  };
}
