/** What the stage shows just now: the tried pose if there is one, else the plan's frame. */
import type { Item, Puppet } from "../api/types";
import { get, puppetOf, type Plan, type Pose } from "../state/workshop";

export interface Scene {
  items: readonly Item[];
  matrices: Float32Array;
  offset: number;
  joints: readonly string[];
  worlds: Float32Array;
  worldOffset: number;
  behind: Plan["behind"];
}

export function sceneAt(plan: Plan | null, pose: Pose | null, frame: number): Scene | null {
  if (!plan) return null;
  if (pose) return { items: pose.items, matrices: pose.matrices, offset: 0, joints: pose.joints, worlds: pose.worlds, worldOffset: 0, behind: plan.behind };
  const at = Math.max(0, Math.min(frame, plan.frames - 1));
  return {
    items: plan.items,
    matrices: plan.matrices,
    offset: at * plan.items.length * 6,
    joints: plan.joints,
    worlds: plan.worlds,
    worldOffset: at * plan.joints.length * 6,
    behind: plan.behind,
  };
}

export const sceneNow = (): Scene | null => sceneAt(get().plan, get().pose, get().frame);

/** Where a joint is on the stage. */
export function jointPlace(scene: Scene, joint: string): [number, number] | null {
  const row = scene.joints.indexOf(joint);
  if (row < 0) return null;
  const at = scene.worldOffset + row * 6;
  return [scene.worlds[at + 4]!, scene.worlds[at + 5]!];
}

/** The corners of a piece's drawing on the stage. */
export function corners(scene: Scene, puppet: Puppet, piece: string): [number, number][] | null {
  const row = scene.items.findIndex((i) => i.piece === piece);
  const bounds = puppet.pieces?.[piece]?.drawings[0]?.bounds;
  if (row < 0 || !bounds) return null;
  const m = scene.matrices.subarray(scene.offset + row * 6, scene.offset + row * 6 + 6);
  const [l, t, r, b] = bounds as [number, number, number, number];
  return ([[l, t], [r, t], [r, b], [l, b]] as const).map(([x, y]) => [m[0]! * x + m[2]! * y + m[4]!, m[1]! * x + m[3]! * y + m[5]!]);
}

/** The piece that a joint moves, foremost first. */
export function pieceOn(joint: string): string | null {
  const puppet = puppetOf(get());
  if (!puppet) return null;
  return [...(puppet.order ?? [])].reverse().find((id) => puppet.pieces?.[id]?.joint === joint) ?? null;
}
