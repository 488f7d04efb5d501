/** What the Shots bench does, by button or by key. */
import {
  allPuppets,
  channelsOf,
  freshId,
  get,
  made,
  motionsOf,
  notify,
  partAt,
  shotOf,
  shotsOf,
  stop,
  submit,
  type ShotKeyRef,
  turnTo,
  pickOut,
} from "../../session";
import type { CastOf, Member, Point, Puppet, Shot, Span } from "../../wire/types";

export const PLACE = "place";
export const CAMERA = "camera";

export const calledOf = (cast: CastOf): string => cast.name || cast.puppet;
export const spanEnd = (span: Span): number => span.start + span.frames;

/** The member of the shot that is picked, by itself or by one of its spans. */
export function memberOf(shot: Shot | undefined): Member | null {
  const picked = get().picked;
  const id = picked?.kind === "cast" ? picked.id : picked?.kind === "span" ? picked.cast : null;
  const found = id ? shot?.cast?.[id] : undefined;
  return found?.kind === "member" ? found : null;
}

/** Work on a shot, from its beginning. */
export function openShot(id: string): void {
  stop();
  const shot = get().documents[id];
  turnTo({
    shot: id,
    wholeFilm: false,
    picked: null,
    shotKeys: [],
    range: null,
    frame: shot?.kind === "shot" ? (shot.first ?? 0) : 0,
    seenAs: null,
  });
}

/** Look at the whole film, where the shot is that was worked on. */
export function openFilm(): void {
  if (get().wholeFilm) return;
  stop();
  turnTo({ wholeFilm: true, film: null, picked: null, shotKeys: [], range: null, seenAs: null });
}

/** From the film into the shot that shows, at the same frame. */
export function openShown(): void {
  const { film, frame } = get();
  const part = film && partAt(film, frame);
  if (!part) return;
  openShot(part.shot);
  turnTo({ frame: part.first + frame - part.start });
}

export async function addShot(): Promise<void> {
  const now = get();
  const id = freshId();
  const name = `Shot ${shotsOf(now).length + 1}`;
  if (await submit({ do: "add-shot", id, name, after: now.shot })) openShot(id);
}

export async function duplicateShot(): Promise<void> {
  const { shot } = get();
  const id = freshId();
  if (shot && (await submit({ do: "duplicate-shot", shot, id }))) openShot(id);
}

export async function splitShot(): Promise<void> {
  const { shot, frame } = get();
  const id = freshId();
  if (shot && (await submit({ do: "split-shot", shot, at: frame, id }))) openShot(id);
}

/** Bring a puppet on, or copies of it. */
export async function bringOn(puppet: Puppet, copies = false): Promise<void> {
  const shot = shotOf(get());
  if (!shot) return;
  const id = freshId();
  if (await submit({ do: "bring-on", shot: shot.id, id, puppet: puppet.id, copies }))
    pickOut({ picked: { kind: "cast", id } });
}

/** Let a member do a motion from the frame that shows, after or over what it does there. */
export async function addSpan(member: Member, motion: string): Promise<void> {
  const shot = shotOf(get());
  if (!shot) return;
  const id = freshId();
  const made = await submit({ do: "add-span", shot: shot.id, cast: member.id, id, motion, frame: get().frame });
  if (made) pickOut({ picked: { kind: "span", cast: member.id, id } });
}

/** Change a span. */
export function setSpan(cast: string, span: string, given: Partial<Span>, match = false): void {
  const shot = shotOf(get());
  if (shot) void submit({ do: "set-span", shot: shot.id, cast, span: { id: span, ...given }, match });
}

/** Let the feet of a span go on from those before it, and say where it begins for that. */
export async function matchFeet(cast: string, span: string): Promise<void> {
  const shot = shotOf(get());
  if (!shot) return;
  const ack = await made({ do: "match-feet", shot: shot.id, cast, span });
  if (!ack) return;
  if (ack.seq) notify(true, "The feet go on", ack.label);
  else notify(true, "The feet go on already", "It begins where its feet are most like those before it.");
}

/** Move a span, or where it begins or ends, by so many frames. */
export function nudgeSpan(cast: string, span: string, end: "start" | "end" | "both", by: number): Promise<boolean> {
  const shot = shotOf(get());
  return shot ? submit({ do: "nudge-span", shot: shot.id, cast, span, end, by }) : Promise.resolve(false);
}

/** Remove what is picked: keys, a span, a sound, or one of the cast. */
export function removePicked(): void {
  const now = get();
  const shot = shotOf(now);
  const { picked, shotKeys } = now;
  if (!shot) return;
  if (shotKeys.length) {
    void submit({ do: "unkey-in-shot", shot: shot.id, keys: shotKeys });
    pickOut({ shotKeys: [] });
  } else if (picked?.kind === "span")
    void submit({ do: "remove-spans", shot: shot.id, cast: picked.cast, spans: [picked.id] });
  else if (picked?.kind === "cast") void submit({ do: "remove-cast", shot: shot.id, cast: [picked.id] });
  else if (picked?.kind === "sound") void submit({ do: "lift-heard", shot: shot.id, sounds: [picked.id] });
}

/** Once more what is picked: one of the cast, a span right after itself, or the shot. */
export async function duplicatePicked(): Promise<void> {
  const now = get();
  const shot = shotOf(now);
  const { picked } = now;
  if (!shot) return;
  if (picked?.kind === "cast") {
    const id = freshId();
    if (await submit({ do: "duplicate-cast", shot: shot.id, cast: picked.id, id }))
      pickOut({ picked: { kind: "cast", id } });
  } else if (picked?.kind === "span") {
    const id = freshId();
    if (await submit({ do: "repeat-span", shot: shot.id, cast: picked.cast, span: picked.id, id }))
      pickOut({ picked: { kind: "span", cast: picked.cast, id } });
  } else await duplicateShot();
}

/** Cut the picked span in two before the frame that shows. */
export function splitSpan(): void {
  const now = get();
  const shot = shotOf(now);
  if (!shot || now.picked?.kind !== "span") return;
  const { cast, id: span } = now.picked;
  void submit({ do: "split-span", shot: shot.id, cast, span, at: now.frame, id: freshId() });
}

/** The values of a channel of a place, or of the camera, at the frame that shows. */
export function valueNow(cast: string | null, kind: "move" | "turn" | "scale" | "opacity"): number[] {
  const { shotPlan, frame } = get();
  const neutral = { move: [0, 0], turn: [0], scale: [1, 1], opacity: [100] }[kind];
  if (!shotPlan) return neutral;
  const at = Math.min(frame, shotPlan.frames - 1);
  if (cast === null) {
    const n = shotPlan.frames;
    const [x, y, turn, zoom] = [0, 1, 2, 3].map((k) => shotPlan.aims[k * n + at]!) as [number, number, number, number];
    return kind === "move" ? [x, y] : kind === "turn" ? [turn] : [zoom, zoom];
  }
  const found = shotPlan.cels.find((c) => c.cast === cast)?.keyed[`${PLACE}.${kind}`];
  return found ? neutral.map((_, k) => found[k * shotPlan.frames + at]!) : neutral;
}

/** Key the camera, or the place of one of the cast, at the frame that shows. */
export function keyAt(cast: string | null, values: Record<string, (number | null)[]>): Promise<boolean> {
  const shot = shotOf(get());
  if (!shot) return Promise.resolve(false);
  const frame = Math.min(get().frame, shot.length - 1);
  const joint = cast === null ? CAMERA : PLACE;
  const keys = Object.entries(values).map(([kind, value]) => ({ joint, kind: kind as "move", frame, value }));
  return submit({ do: "key-in-shot", shot: shot.id, cast, keys });
}

/** Key what is picked where it is: the camera's frame, or somebody's place. */
export function keyPicked(): void {
  const { picked } = get();
  const member = memberOf(shotOf(get()));
  if (picked?.kind === "camera") {
    const all = { move: valueNow(null, "move"), scale: valueNow(null, "scale"), turn: valueNow(null, "turn") };
    void keyAt(null, all);
  } else if (member) {
    void keyAt(member.id, { move: valueNow(member.id, "move") });
  } else notify(false, "Nothing to key", "Pick the camera or one of the cast first.");
}

/** Move one of the cast by so many units of the stage. */
export function nudgeCast(cast: string, by: Point): Promise<boolean> {
  const { frame } = get();
  const shot = shotOf(get());
  return shot ? submit({ do: "nudge-cast", shot: shot.id, cast, by, frame }) : Promise.resolve(false);
}

/** The keys that lie on one frame of a row: of the camera, or of one of the cast. */
export function keysOn(shot: Shot, cast: string | null, frame: number): ShotKeyRef[] {
  return Object.entries(channelsOf(shot, cast)).flatMap(([channel, c]) =>
    c.keys?.[String(frame)] ? [{ cast, channel, frame }] : [],
  );
}

/** Puppets that can come into the cast: those that move first, then sets and props. */
export const toCast = (): Puppet[] => {
  const { documents } = get();
  const all = allPuppets(documents);
  const moves = (p: Puppet) => motionsOf(documents, p.id).length > 0;
  return [...all.filter(moves), ...all.filter((p) => !moves(p))];
};
