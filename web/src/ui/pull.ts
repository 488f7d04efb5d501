/** Pulling on something that is no stage: one pointer, until it goes up, is lost or taken back. */
import { useEffect, useRef } from "react";
import { holding } from "./shortcuts";

export interface Pull {
  move?(event: React.PointerEvent): void;
  end?(event: React.PointerEvent): void;
  cancel?(): void;
}

/** Handlers for an element that `begin` says how to pull on. */
export function usePull<E extends Element>(begin: (event: React.PointerEvent<E>) => Pull | null) {
  const held = useRef<{ pointer: number; pull: Pull; release: () => void } | null>(null);
  const over = (pointer?: number): Pull | null => {
    const now = held.current;
    if (!now || (pointer !== undefined && now.pointer !== pointer)) return null;
    held.current = null;
    now.release();
    return now.pull;
  };
  useEffect(
    () => () => {
      held.current?.release();
      held.current?.pull.cancel?.();
      held.current = null;
    },
    [],
  );
  return {
    onPointerDown(event: React.PointerEvent<E>) {
      if (event.button !== 0 || held.current) return;
      const pull = begin(event);
      if (!pull) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      const release = holding(() => over()?.cancel?.());
      held.current = { pointer: event.pointerId, pull, release };
    },
    onPointerMove(event: React.PointerEvent<E>) {
      if (held.current?.pointer === event.pointerId) held.current.pull.move?.(event);
    },
    onPointerUp: (event: React.PointerEvent<E>) => over(event.pointerId)?.end?.(event),
    onPointerCancel: (event: React.PointerEvent<E>) => over(event.pointerId)?.cancel?.(),
    onLostPointerCapture: (event: React.PointerEvent<E>) => over(event.pointerId)?.cancel?.(),
  };
}
