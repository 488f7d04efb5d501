/** Which piece a click means: the one whose visible pixels are under the pointer. */
import { distance } from "../geometry";
import type { Point } from "../wire/types";
import { get, puppetOf } from "../session";
import { shownOnly } from "./moment";
import { painter, type Painter } from "./painter";
import { lockedPiece, sceneNow } from "./scene";

let ready: Painter | null = null;
void painter().then((p) => (ready = p));

/** Pieces showing at a stage point, front to back; locked ones are passed over. */
export function piecesAt(at: Point): string[] {
  const scene = sceneNow();
  const puppet = puppetOf(get());
  if (!scene || !puppet || !ready) return [];
  const only = shownOnly(get());
  const may = (item: { piece: string }) => !lockedPiece(puppet, item.piece) && (!only || only.has(item.piece));
  return ready.at(at[0], at[1], scene.frame, may).map((i) => i.piece);
}

let last: { at: Point; piece: string } | null = null;
/** The piece that was reached by clicking through what lies over it. */
let reached: string | null = null;

/** The piece that a closing hand means: the foremost, or one that is selected and was reached through it. */
export function meant(at: Point): string | null {
  const found = piecesAt(at);
  const { pieces } = get();
  const chosen = found.find((p) => pieces.includes(p) && (p === reached || p === found[0]));
  return chosen ?? pick(at, false);
}

/** The piece to select: the foremost, or, clicking the same place again, the one behind it. */
export function pick(at: Point, again: boolean): string | null {
  const found = piecesAt(at);
  if (!found.length) {
    last = null;
    return null;
  }
  const same = last && distance(at, last.at) < 4;
  const before = same && last ? found.indexOf(last.piece) : -1;
  const piece = again && before >= 0 ? found[(before + 1) % found.length]! : found[0]!;
  last = { at, piece };
  reached = piece === found[0] ? null : piece;
  return piece;
}
