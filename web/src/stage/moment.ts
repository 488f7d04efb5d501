/** What the stage leaves out for the moment: a way of looking, of this window. It is kept nowhere and never rendered. */
import { type Bench, get, hangsOn, pickOut, puppetOf, see, type State } from "../session";
import type { Puppet } from "../wire/types";
import { movedBy } from "./scene";

/** Benches on which a puppet is worked on, and parts of it may be left out of sight: only they can bring them back. */
const BENCHES: readonly Bench[] = ["pieces", "rig", "motion"];
export const leavesOut = (w: State): boolean => BENCHES.includes(w.bench);

/** The pieces that are in hand; where one rigs and poses, with all that hangs on the joints in hand. */
function inHand(w: State, puppet: Puppet): string[] {
  if (w.bench === "pieces") return w.pieces;
  const joints = puppet.joints ?? {};
  const taken = [...w.joints, ...w.pieces.flatMap((id) => puppet.pieces?.[id]?.joint ?? [])];
  const all = Object.keys(joints).filter((id) => taken.some((top) => id === top || hangsOn(joints, id, top)));
  return [...new Set([...w.pieces, ...all.flatMap((id) => movedBy(puppet, id))])];
}

/** The pieces that the stage shows, where it leaves some out. */
export function shownOnly(w: State): ReadonlySet<string> | undefined {
  const puppet = puppetOf(w);
  const out = w.unseen[w.puppet ?? ""];
  if (!puppet || !leavesOut(w) || (!w.isolated && !out?.length)) return undefined;
  const shown = w.isolated ? inHand(w, puppet) : Object.keys(puppet.pieces ?? {});
  return new Set(shown.filter((id) => !out?.includes(id)));
}

/** How many pieces of the puppet are hidden here for the moment. */
export const hiddenNow = (w: State): number => (leavesOut(w) && w.unseen[w.puppet ?? ""]?.length) || 0;

/** Whether what lies outside the picture is left out here. */
export const insideOnly = (w: State): boolean => w.cropped && leavesOut(w);

/** Hide what is in hand; what is behind it is reached then. */
export function hideNow(): void {
  const puppet = puppetOf(get());
  if (!puppet) return;
  const { unseen } = get();
  const out = [...new Set([...(unseen[puppet.id] ?? []), ...inHand(get(), puppet)])];
  // What is out of sight is not in hand either.
  pickOut({ unseen: { ...unseen, [puppet.id]: out }, isolated: false, pieces: [], joints: [], joint: null });
}

export const showAll = (): void => see({ unseen: { ...get().unseen, [get().puppet ?? ""]: [] }, isolated: false });

/** Show what is in hand alone, or all again. */
export function alone(): void {
  const w = get();
  const puppet = puppetOf(w);
  see({ isolated: !w.isolated && !!puppet && inHand(w, puppet).length > 0 });
}
