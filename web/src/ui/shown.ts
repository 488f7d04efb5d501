/** What a hand did stays seen until it is settled: until what it was done to changes, or the answer is no. */
import { useCallback, useRef, useState } from "react";

interface Held<T> {
  value: T;
  /** What it is about, as it was when the hand let go; while it still holds, it is seen whatever that becomes. */
  of: { was: unknown } | null;
}

/**
 * What is seen of something (`of`) that a hand pulls on: what `show` was told last, else `rest`. `settle` is told when the
 * hand lets go, with what comes of it, or with nothing if nothing does.
 */
export function useShown<T>(rest: T, of: unknown) {
  const [held, setHeld] = useState<Held<T> | null>(null);
  const latest = useRef(of);
  latest.current = of;
  const turn = useRef(0);
  const show = useCallback((value: T) => {
    turn.current++;
    setHeld({ value, of: null });
  }, []);
  const settle = useCallback((done?: Promise<unknown> | null) => {
    const mine = ++turn.current;
    const over = () => {
      if (turn.current === mine) setHeld(null);
    };
    if (!done) return over();
    setHeld((now) => now && { ...now, of: { was: latest.current } });
    void done.then(over, over);
  }, []);
  const shown = held && (!held.of || held.of.was === of) ? held.value : rest;
  return { shown, show, settle };
}
