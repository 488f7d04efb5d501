/** What the stage shows just now: the tried pose if there is one, else the plan's frame. */
import { useEffect, useState } from "react";
import type { Item, Puppet } from "../api/types";
import { get, puppetOf, useWorkshop, type Plan, type Pose } from "../state/workshop";

/** Left, top, right, bottom, in stage units. */
export type Box = [number, number, number, number];

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

/** The box of all drawings at rest, on the stage. */
export function restBox(puppet: Puppet, items: readonly Item[], matrices: Float32Array): Box | null {
  let [l, t, r, b] = [Infinity, Infinity, -Infinity, -Infinity];
  items.forEach((item, i) => {
    const bounds = puppet.pieces?.[item.piece]?.drawings[0]?.bounds as number[] | undefined;
    if (!bounds || item.hidden) return;
    const m = matrices.subarray(i * 6, i * 6 + 6);
    for (const x of [bounds[0]!, bounds[2]!])
      for (const y of [bounds[1]!, bounds[3]!]) {
        const [px, py] = [m[0]! * x + m[2]! * y + m[4]!, m[1]! * x + m[3]! * y + m[5]!];
        [l, t, r, b] = [Math.min(l, px), Math.min(t, py), Math.max(r, px), Math.max(b, py)];
      }
  });
  return r > l ? [l, t, r, b] : null;
}

/**
 * The puppet's box at rest with some air around it, for a stage that shows the puppet rather than
 * the paper. It stays as it is while pieces are moved, and is taken anew when some come or go.
 */
export function usePuppetBox(puppet: Puppet | undefined): Box | null {
  const plan = useWorkshop((w) => w.plan);
  const [kept, setKept] = useState<{ key: string; box: Box } | null>(null);
  const key = puppet ? `${puppet.id}:${puppet.order?.length ?? 0}` : "";
  useEffect(() => {
    if (!puppet || !plan || kept?.key === key || plan.watch.puppet !== puppet.id || plan.items.length !== puppet.order?.length) return;
    const box = restBox(puppet, plan.items, plan.rest.matrices);
    if (!box) return;
    const air = 0.12 * Math.max(box[2] - box[0], box[3] - box[1]);
    setKept({ key, box: [box[0] - air, box[1] - air, box[2] + air, box[3] + air] });
  }, [puppet, plan, key, kept]);
  return kept && puppet && kept.key.startsWith(`${puppet.id}:`) ? kept.box : null;
}
