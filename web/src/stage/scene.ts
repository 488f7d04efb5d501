/** What the stage shows just now: the tried pose if there is one, else the plan's frame. */
import { useEffect, useState } from "react";
import { placed } from "../geometry";
import type { Item, Joint, Piece, Point, Puppet } from "../wire/types";
import { get, pickOut, puppetOf, useWorkshop, type Plan, type Pose, type Reached, type Trial } from "../session";
import { drawingOf } from "./painter";
import type { Frame, Frames } from "../session/frames";

/** Left, top, right, bottom, in stage units. */
export type Box = [number, number, number, number];

export interface Scene {
  frame: Frame;
  items: readonly Item[];
  joints: readonly string[];
  worlds: Float32Array;
  worldOffset: number;
  reached: Reached;
  reachedAt: number;
  behind: Plan["behind"];
}

export function sceneAt(
  plan: Plan | null,
  pose: Pose | null,
  frame: number,
  trial: Trial | null = get().trial,
): Scene | null {
  if (!plan) return null;
  if (trial && !pose) {
    const at = frame % trial.frames;
    const { drawn, worlds, reached } = trial;
    return {
      frame: { ...drawn, at },
      items: drawn.items,
      joints: plan.joints,
      worlds,
      worldOffset: at * plan.joints.length * 6,
      reached,
      reachedAt: at,
      behind: plan.behind,
    };
  }
  const at = pose ? 0 : Math.max(0, Math.min(frame, plan.frames - 1));
  const shown = pose ?? plan;
  return {
    frame: { ...shown.drawn, at },
    items: shown.drawn.items,
    joints: shown.joints,
    worlds: shown.worlds,
    worldOffset: at * shown.joints.length * 6,
    reached: shown.reached,
    reachedAt: at,
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

/** A joint's six numbers to the stage. */
export function jointMatrix(scene: Scene, joint: string): Float32Array | null {
  const row = scene.joints.indexOf(joint);
  return row < 0 ? null : scene.worlds.subarray(scene.worldOffset + row * 6, scene.worldOffset + row * 6 + 6);
}

/** The six numbers that take a piece's shown drawing to the stage. */
export function pieceMatrix(scene: Scene, piece: string): Float32Array | null {
  const row = scene.items.findIndex((i) => i.piece === piece);
  if (row < 0) return null;
  const at = (scene.frame.at * scene.items.length + row) * 6;
  return scene.frame.matrices.subarray(at, at + 6);
}

/** Whether a piece is locked, by itself or with a group that it is in. */
export function lockedPiece(puppet: Puppet, id: string): boolean {
  const piece = puppet.pieces?.[id];
  if (!piece || piece.locked) return true;
  for (let at: string | null | undefined = piece.group; at; at = puppet.groups?.[at]?.parent)
    if (puppet.groups?.[at]?.locked) return true;
  return false;
}

/** The corners of a piece's drawing on the stage. */
export function corners(scene: Scene, _puppet: Puppet, piece: string): [number, number][] | null {
  const row = scene.items.findIndex((i) => i.piece === piece);
  const m = pieceMatrix(scene, piece);
  if (!m) return null;
  const [l, t, r, b] = scene.items[row]!.boxes[drawingOf(scene.frame, row)]!;
  return (
    [
      [l, t],
      [r, t],
      [r, b],
      [l, b],
    ] as const
  ).map((p) => placed(m, [p[0], p[1]]));
}

/** The middle of all that is in hand on the stage of a puppet; null where nothing is. */
export function middleInHand(scene: Scene): Point | null {
  const { pieces, joints } = get();
  const puppet = puppetOf(get());
  if (!puppet) return null;
  const places = [
    ...pieces.flatMap((id) => corners(scene, puppet, id) ?? []),
    ...joints.map((id) => jointPlace(scene, id)).filter((at) => at !== null),
  ];
  if (!places.length) return null;
  const [xs, ys] = [places.map((p) => p[0]), places.map((p) => p[1])];
  return [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2];
}

/** The nodes that bend a piece. */
const bentBy = (piece: Piece): string[] =>
  piece.attach?.kind === "bend" ? piece.attach.joints : (piece.attach?.handles ?? []);

/** The pieces that a joint moves. */
export const movedBy = (puppet: Puppet, joint: string): string[] =>
  Object.values(puppet.pieces ?? {}).flatMap((p) => (p.joint === joint || bentBy(p).includes(joint) ? [p.id] : []));

/** Whether a joint has its mark on a stage that shows only some pieces: one that only moves what is hidden would be pulled by mistake. */
export function marked(puppet: Puppet, only: ReadonlySet<string> | undefined): (joint: Joint) => boolean {
  if (!only) return () => true;
  return ({ id }) => {
    const moved = movedBy(puppet, id);
    return !moved.length || moved.some((piece) => only.has(piece));
  };
}

/** The piece that a joint or handle moves, foremost first: one that rides on it, else one that it bends. */
export function pieceOn(joint: string): string | null {
  const puppet = puppetOf(get());
  if (!puppet) return null;
  const front = [...(puppet.order ?? [])].reverse();
  return (
    front.find((id) => puppet.pieces?.[id]?.joint === joint) ??
    front.find((id) => bentBy(puppet.pieces![id]!).includes(joint)) ??
    null
  );
}

/** The joints that have a pin on the stage: what a dial moves is posed with the dial, and its pins would only cover the
 * face. A dial that turns the whole puppet poses nothing. */
export function pinned(puppet: Puppet, only?: ReadonlySet<string>): Joint[] {
  const dialled = new Set(
    Object.values(puppet.dials ?? {}).flatMap((d) =>
      (d.turns ? [] : (d.stops ?? [])).flatMap((s) =>
        Object.keys(s.values ?? {}).map((c) => c.slice(0, c.lastIndexOf("."))),
      ),
    ),
  );
  return Object.values(puppet.joints ?? {})
    .filter((j) => !dialled.has(j.id))
    .filter(marked(puppet, only));
}

/** Take joints in hand, the last of them first, with the pieces that they move. */
export function takeJoints(joints: readonly string[]): void {
  const pieces = new Set(joints.flatMap((id) => pieceOn(id) ?? []));
  pickOut({ joints: [...joints], joint: joints[joints.length - 1] ?? null, pieces: [...pieces].reverse() });
}

/** Those in hand with one more, or, if it is among them, without it. */
export const withJoint = (joint: string): string[] => {
  const { joints } = get();
  return joints.includes(joint) ? joints.filter((id) => id !== joint) : [...joints, joint];
};

/** The box of all drawings that show in a frame, on the stage. */
export function boxOf(frame: Frame): Box | null {
  const { items, matrices, at } = frame;
  let [l, t, r, b] = [Infinity, Infinity, -Infinity, -Infinity];
  items.forEach((item, i) => {
    const bounds = item.boxes[drawingOf(frame, i)];
    if (!bounds || item.hidden) return;
    const row = (at * items.length + i) * 6;
    const m = matrices.subarray(row, row + 6);
    for (const x of [bounds[0]!, bounds[2]!])
      for (const y of [bounds[1]!, bounds[3]!]) {
        const [px, py] = placed(m, [x, y]);
        [l, t, r, b] = [Math.min(l, px), Math.min(t, py), Math.max(r, px), Math.max(b, py)];
      }
  });
  return r > l ? [l, t, r, b] : null;
}

/** The box of all drawings at rest, on the stage. */
export const restBox = (frames: Frames): Box | null =>
  boxOf({ ...frames, shown: null, order: null, opacity: null, at: 0 });

/**
 * The puppet's box at rest with some air around it, for a stage that shows the puppet rather than
 * the paper. It stays as it is while pieces are moved, and is taken anew when some come or go.
 */
export function usePuppetBox(puppet: Puppet | undefined): Box | null {
  const plan = useWorkshop((w) => w.plan);
  const [kept, setKept] = useState<{ key: string; box: Box } | null>(null);
  // Shapes drawn here do not count: a stage that moved after each of them could not be drawn on.
  const brought = Object.values(puppet?.pieces ?? {}).filter((p) => p.drawings.some((d) => !d.shape)).length;
  const key = puppet && brought ? `${puppet.id}:${brought}` : "";
  useEffect(() => {
    if (
      !puppet ||
      !plan ||
      !key ||
      kept?.key === key ||
      plan.puppet !== puppet.id ||
      plan.drawn.items.length !== puppet.order?.length
    )
      return;
    const box = restBox(plan.rest.drawn);
    if (!box) return;
    const air = 0.12 * Math.max(box[2] - box[0], box[3] - box[1]);
    setKept({ key, box: [box[0] - air, box[1] - air, box[2] + air, box[3] + air] });
  }, [puppet, plan, key, kept]);
  return kept && puppet && kept.key.startsWith(`${puppet.id}:`) ? kept.box : null;
}
