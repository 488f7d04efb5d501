/** What the core says of how a drawing becomes another: again whenever it changes, and at once while a hand moves. */
import { useCallback, useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { askMorph, useWorkshop } from "../session";
import type { Becoming } from "../session/morphs";
import type { Morph, Piece } from "../wire/types";
import { painter } from "../stage/painter";

/** How the first becomes the second as it is kept, seen from the first; nothing, if it is as usual. */
export function morphOf(piece: Piece, first: string, second: string): Morph | null {
  for (const m of Object.values(piece.morphs ?? {})) {
    if (m.first === first && m.second === second) return m;
    if (m.first !== second || m.second !== first) continue;
    const marks = Object.fromEntries(
      Object.entries(m.marks ?? {}).map(([id, k]) => [id, { ...k, first: k.second, second: k.first }]),
    );
    const pairs = (m.pairs ?? []).map((p) => ({ first: p.second, second: p.first }));
    return { ...m, first, second, marks, pairs };
  }
  return null;
}

export interface Looked {
  /** As it is, measured. */
  becoming: Becoming | null;
  /** As a hand has it; null while none moves. */
  tried: Becoming | null;
  busy: boolean;
  attempt: (morph: Morph, part: number) => void;
  /** The hand has let go; what it tried goes once it is known how it is now. */
  letGo: () => void;
  settle: () => void;
}

export function useMorph(piece: Piece, first: string, second: string, parts: readonly number[]): Looked {
  const [becoming, setBecoming] = useState<Becoming | null>(null);
  const [tried, setTried] = useState<Becoming | null>(null);
  const [busy, setBusy] = useState(false);
  const asked = useRef(0);
  const held = useRef(false);
  const [settled, setSettled] = useState(0);
  const connected = useWorkshop((w) => w.connected);
  const signature = JSON.stringify([connected, settled, piece.id, first, second, piece.morphs, piece.drawings, parts]);
  useEffect(() => {
    let live = true;
    const n = ++asked.current;
    setBusy(true);
    void askMorph({ piece: piece.id, first, second, parts: [...parts], measure: true, advise: true }).then(
      async (found) => {
        if (!live || n !== asked.current) return;
        // Refused, or the line is broken; when it is there again it is asked for again.
        if (!found) return setBusy(false);
        await (await painter()).prepare([{ arts: [found.art] }]);
        if (!live) return;
        setBecoming(found);
        if (!held.current) setTried(null);
        setBusy(false);
      },
    );
    return () => {
      live = false;
    };
    // What it is about is all in the signature.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [signature]);
  const attempt = useCallback(
    (morph: Morph, part: number) => {
      held.current = true;
      void askMorph({
        piece: piece.id,
        first,
        second,
        tried: morph,
        parts: [part],
        measure: false,
        advise: false,
      }).then(async (found) => {
        if (!found || !held.current) return;
        const p = await painter();
        if (!p.has([{ arts: [found.art] }])) await p.prepare([{ arts: [found.art] }]);
        // A hand waits: not when there is time, but now.
        if (held.current) flushSync(() => setTried(found));
      });
    },
    [piece.id, first, second],
  );
  const letGo = useCallback(() => {
    held.current = false;
  }, []);
  const settle = useCallback(() => setSettled((n) => n + 1), []);
  return { becoming, tried, busy, attempt, letGo, settle };
}
