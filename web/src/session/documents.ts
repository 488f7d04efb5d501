/** The documents as the service tells of them: a snapshot, and then every change in its order. */
import type { Document, Step, Write } from "../wire/types";

export type Documents = Record<string, Document>;

export interface Change {
  seq: number;
  writes: readonly Write[];
  undo: Step | null;
  redo: Step | null;
}

export interface Chronicle {
  documents: Documents;
  /** The newest change that the documents have taken up. */
  seq: number;
  undo: Step | null;
  redo: Step | null;
  /** Changes that came before those they follow on: an answer may overtake a message. */
  early: Record<number, Change>;
}

export const nothing: Chronicle = { documents: {}, seq: -1, undo: null, redo: null, early: {} };

/** Start over from a snapshot: what is not in it is not there. */
export function begun(snapshot: {
  seq: number;
  documents: readonly Document[];
  undo: Step | null;
  redo: Step | null;
}): Chronicle {
  const { seq, undo, redo } = snapshot;
  return { documents: Object.fromEntries(snapshot.documents.map((d) => [d.id, d])), seq, undo, redo, early: {} };
}

/** Take up a change, and those that waited for it. One that is known already, or comes early, changes nothing yet. */
export function taken(before: Chronicle, change: Change): Chronicle {
  if (change.seq <= before.seq) return before;
  let now: Chronicle = { ...before, early: { ...before.early, [change.seq]: change } };
  for (let next = now.early[now.seq + 1]; next; next = now.early[now.seq + 1]) {
    const { [next.seq]: _, ...early } = now.early;
    void _;
    now = { documents: written(now.documents, next.writes), seq: next.seq, undo: next.undo, redo: next.redo, early };
  }
  return now;
}

/** The documents with these writes made; what they do not touch stays the very same object. */
export function written(documents: Documents, writes: readonly Write[]): Documents {
  return writes.reduce((now, w) => put(now, [w.document, ...w.path], w), documents);
}

function put<T>(place: T, path: readonly string[], write: Write): T {
  const [step, ...rest] = path as [string, ...string[]];
  const now = (place ?? {}) as Record<string, unknown>;
  if (rest.length) return { ...now, [step]: put(now[step], rest, write) } as T;
  if (write.has && write.next != null && !(step in now) && write.next in now) {
    const entries = Object.entries(now).flatMap((e) => (e[0] === write.next ? [[step, write.after], e] : [e]));
    return Object.fromEntries(entries as [string, unknown][]) as T;
  }
  if (write.has) return { ...now, [step]: write.after } as T;
  const { [step]: _, ...left } = now;
  void _;
  return left as T;
}
