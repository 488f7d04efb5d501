/** The rows of the timing sheet: threads under their limbs, folded, sorted and filtered. */
import { CHANNELS } from "../wire/facts.gen";
import { ROOT, type Channel, type Motion, type Puppet } from "../wire/types";
import type { KeyRef } from "../session";
import type { FootRow } from "./feet";

export interface Thread {
  id: string;
  channel: Channel;
  name: string;
  limb: string;
  /** The frames of its keys, in order. */
  frames: number[];
}

export type Row =
  | { kind: "limb"; limb: string; folded: boolean; threads: Thread[]; frames: number[] }
  | { kind: "thread"; thread: Thread }
  | FootRow;

type Kind = Channel["kind"];
const all = Object.keys(CHANNELS) as Kind[];
/** What a channel of each kind is called. */
export const KINDS = Object.fromEntries(all.map((k) => [k, CHANNELS[k].called])) as Record<Kind, string>;
/** Kinds that jump from key to key. */
export const JUMPS: ReadonlySet<Kind> = new Set(all.filter((k) => CHANNELS[k].chosen));

/** What the owner of a channel is called. */
export function ownerName(puppet: Puppet, { joint, kind }: { joint: string; kind: Channel["kind"] }): string {
  if (joint === ROOT) return "Whole puppet";
  const { pieces: piece, chains: chain, dials: dial, joints: joint_ } = puppet;
  return { piece, chain, dial, joint: joint_ }[CHANNELS[kind].owner]?.[joint]?.name ?? "?";
}

const known = new WeakMap<Channel, number[]>();
/** The frames of a channel's keys, in order. */
export function framesOf(channel: Channel): number[] {
  let found = known.get(channel);
  if (!found) {
    found = Object.keys(channel.keys ?? {})
      .map(Number)
      .sort((a, b) => a - b);
    known.set(channel, found);
  }
  return found;
}

/** Where `frame` would stand among sorted frames. */
export function placeIn(frames: readonly number[], frame: number): number {
  let [low, high] = [0, frames.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (frames[middle]! < frame) low = middle + 1;
    else high = middle;
  }
  return low;
}

const ORDER = ["whole puppet", "body", "head", "left arm", "right arm", "left leg", "right leg"];
const kinds = ["dial", "show", "order", "opacity", "reach", "move", "turn", "scale"];

/** All threads, limb by limb, each limb's joints from its root outwards as `joints` has them. */
export function threadsOf(
  puppet: Puppet,
  motion: Motion,
  joints: readonly string[],
  limbs: Record<string, string>,
): Thread[] {
  const rank = new Map([ROOT, ...joints].map((id, i) => [id, i]));
  const limbRank = (limb: string) => (ORDER.includes(limb) ? ORDER.indexOf(limb) : ORDER.length);
  const found = Object.entries(motion.channels ?? {}).map(([id, channel]) => ({
    id,
    channel,
    name: ownerName(puppet, channel),
    limb: limbs[channel.joint] ?? "other parts",
    frames: framesOf(channel),
  }));
  return found.sort(
    (a, b) =>
      limbRank(a.limb) - limbRank(b.limb) ||
      a.limb.localeCompare(b.limb) ||
      (rank.get(a.channel.joint) ?? 1e6) - (rank.get(b.channel.joint) ?? 1e6) ||
      a.name.localeCompare(b.name) ||
      kinds.indexOf(a.channel.kind) - kinds.indexOf(b.channel.kind),
  );
}

export interface Look {
  folded: ReadonlySet<string>;
  sort: "figure" | "keys";
  only: ReadonlySet<string> | null;
}

/** The rows to show. Sorted by keys, limbs and threads with the most keys come first. */
export function rowsOf(threads: readonly Thread[], { folded, sort, only }: Look, feet: readonly FootRow[] = []): Row[] {
  const kept = only ? threads.filter((t) => only.has(t.channel.joint)) : threads;
  const limbs = new Map<string, Thread[]>();
  for (const t of kept) limbs.set(t.limb, [...(limbs.get(t.limb) ?? []), t]);
  const ground = kept.length ? feet.filter((f) => !only || only.has(f.joint)) : [];
  for (const foot of ground) if (!limbs.has(foot.limb)) limbs.set(foot.limb, []);
  const groups = [...limbs];
  const count = (all: Thread[]) => all.reduce((n, t) => n + t.frames.length, 0);
  if (sort === "keys") {
    groups.sort((a, b) => count(b[1]) - count(a[1]));
    for (const [, own] of groups) own.sort((a, b) => b.frames.length - a.frames.length);
  }
  return groups.flatMap(([limb, own]): Row[] => {
    const shut = folded.has(limb);
    const frames = [...new Set(own.flatMap((t) => t.frames))].sort((a, b) => a - b);
    const head: Row = { kind: "limb", limb, folded: shut, threads: own, frames };
    const under = ground.filter((f) => f.limb === limb);
    return shut ? [head] : [head, ...own.map((thread): Row => ({ kind: "thread", thread })), ...under];
  });
}

/** The keys of shown threads in rows `top`…`bottom` and frames `left`…`right`, all included. */
export function keysIn(rows: readonly Row[], top: number, bottom: number, left: number, right: number): KeyRef[] {
  const found: KeyRef[] = [];
  for (let r = Math.max(0, top); r <= Math.min(rows.length - 1, bottom); r++) {
    const row = rows[r]!;
    if (row.kind !== "thread") continue;
    const { frames, id } = row.thread;
    for (let i = placeIn(frames, left); i < frames.length && frames[i]! <= right; i++)
      found.push({ channel: id, frame: frames[i]! });
  }
  return found;
}

/** The keys of a row: a thread's own, or those of all threads of a limb. */
export const keysOfRow = (row: Row): KeyRef[] =>
  (row.kind === "thread" ? [row.thread] : row.kind === "limb" ? row.threads : []).flatMap((t) =>
    t.frames.map((frame) => ({ channel: t.id, frame })),
  );

/** The selected frames by channel. */
export function byChannel(keys: readonly KeyRef[]): Map<string, Set<number>> {
  const found = new Map<string, Set<number>>();
  for (const k of keys) {
    const own = found.get(k.channel);
    if (own) own.add(k.frame);
    else found.set(k.channel, new Set([k.frame]));
  }
  return found;
}

/** Keys with more keys, each once. */
export function union(keys: readonly KeyRef[], more: readonly KeyRef[]): KeyRef[] {
  const has = byChannel(keys);
  return [...keys, ...more.filter((k) => !has.get(k.channel)?.has(k.frame))];
}
