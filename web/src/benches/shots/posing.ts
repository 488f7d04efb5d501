/** Posing one of the cast on the stage of a shot: what the hand pulls is laid over its motions, for this shot only. */
import { get, grab, shotOf, stop, submitTried, type Cel, pickOut } from "../../session";
import { after, inverse, placed, type Matrix } from "../../geometry";
import { frameOf, ownAt, placeAt, viewAt } from "../../stage/cels";
import type { Painter } from "../../stage/painter";
import type { Drag, Hand } from "../../stage/tool";
import { pulling } from "../../stage/tools/pose";
import type { Member, Point, Pull } from "../../wire/types";
import { memberOf } from "./commands";

/** The member that is posed, and what it shows; null where nobody is. */
export function posed(): { member: Member; cel: Cel } | null {
  const { shotPlan, posing, playing } = get();
  // While it plays nobody is held.
  const member = posing && !playing ? memberOf(shotOf(get())) : null;
  const cel = member && shotPlan?.cels.find((c) => c.cast === member.id);
  return member && cel && !cel.hidden ? { member, cel } : null;
}

/** What takes a joint of one of the cast to the picture at the frame that shows. */
export function jointInPicture(cel: Cel, joint: string): Matrix | null {
  const { shotPlan, frame, pose } = get();
  const row = cel.joints.indexOf(joint);
  if (!shotPlan || row < 0) return null;
  const at = Math.min(frame, shotPlan.frames - 1);
  const own = pose?.cast === cel.cast ? pose.worlds : cel.worlds;
  const first = pose?.cast === cel.cast ? 0 : ownAt(cel, at) * cel.joints.length;
  const world = own.subarray((first + row) * 6, (first + row) * 6 + 6);
  return after(viewAt(shotPlan, at, cel.share), after(placeAt(cel, at), world));
}

/** The piece of one of the cast that shows at a point of the picture. */
function pieceAt(painter: Painter, cel: Cel, at: Point): string | null {
  const { shotPlan, frame } = get();
  if (!shotPlan) return null;
  const f = Math.min(frame, shotPlan.frames - 1);
  const [x, y] = placed(inverse(after(viewAt(shotPlan, f, cel.share), placeAt(cel, f))), at);
  return painter.at(x, y, frameOf(cel, ownAt(cel, f)), () => true)[0]?.piece ?? null;
}

/** The drag with which a hand that closes here poses the member; null if it closes on nothing of it. */
export function posingDrag(painter: Painter, hand: Hand, inPicture: (at: Point) => Point): Drag | null {
  const found = posed();
  const { posing, documents, frame } = get();
  const puppet = found && documents[found.member.puppet];
  if (!found || puppet?.kind !== "puppet") return null;
  const { hit } = hand;
  const pinned = hit?.kind === "joint" || hit?.kind === "spin" ? hit.joint : null;
  const piece = pinned ? null : pieceAt(painter, found.cel, inPicture(hand.at));
  const joint = pinned ?? (piece ? puppet.pieces?.[piece]?.joint : null);
  if (!joint) return null;
  pickOut({ joint });
  const own: Pull | null = hit?.kind === "spin" ? "turn" : puppet.joints?.[joint]?.handle ? "move" : null;
  const pull = own ?? posing!;
  stop();
  const cast = found.member.id;
  return pulling({
    close: (tried) => grab(frame, joint, piece, pull, inPicture(hand.at), tried, cast),
    at: (next) => inPicture(next.at),
    done: (tried, at) => keep(cast, at, tried),
  });
}

/** Keep a pose in the shot: with these values, or with so much more than there is. */
export function keep(cast: string, frame: number, values: Record<string, number[]>, added = false): void {
  const shot = shotOf(get());
  if (!shot) return;
  const { poseOver: over, seenAs: seen_as } = get();
  void submitTried({ do: "pose-in-shot", shot: shot.id, cast, frame, values, over, added, seen_as });
}

/** Pose who is picked, or move the cast again. */
export function togglePosing(): void {
  pickOut({ posing: get().posing ? null : "turn", joint: null, pose: null });
}
