/** What a session knows: the documents as the service last told, the plan, and what the user has selected. */
import type {
  Channel,
  Document,
  DrawingParts,
  Finding,
  Motion,
  Point,
  Production,
  Placed,
  Puppet,
  Pull,
  RenderView,
  RigReport,
  Pass,
  Shot,
  Voice,
  WayKey,
  Report,
} from "../wire/types";
import { NUMBERS } from "../wire/facts.gen";
import { nothing, type Chronicle } from "./documents";
import { keep, kept, keptFields } from "../kept";
import type { Saved } from "./outbox";
import type { Cards, Plan, Pose, Trial } from "./plan";
import type { FilmPlan } from "./film";
import type { ShotPlan } from "./shotPlan";
import type { Spaced } from "./spacing";

export interface Bringing {
  puppet: string;
  loose?: boolean;
  purpose?: "pieces" | "drawings" | "new-version" | "reference";
  /** The piece that gets drawings, or the file whose new version this is. */
  target?: string;
  /** Only say what would happen. */
  dry?: boolean;
  /** Of a drawing, what becomes a piece. */
  chosen?: { name: string; parts: string[] }[];
}

/** A drawing whose parts are being chosen. */
export interface Choosing {
  file: File;
  bringing: Bringing;
  found: DrawingParts;
}

/** What came of bringing files in. */
export interface Brought {
  files: File[];
  bringing: Bringing;
  report: Report;
}

/** What the program makes of a motion: where its feet stand and slide on the ground, and likely mistakes. */
export interface Verdict {
  motion: string;
  ground: number;
  /** Units a frame by which a foot may slide before it is a mistake. */
  slides: number;
  feet: Record<string, { slide: Float32Array; stands: Uint8Array }>;
  findings: Finding[];
  /** The frames where a key would lie just beside a pose, and that pose's frame. */
  beside: Record<string, number>;
  /** By channel of drawings that become others: how bad the worst is in each frame, 0 to 1. */
  tangles: Record<string, Float32Array>;
}

/** The mesh of a piece that bends, at rest in drawing units, with one joint's weights. */
export interface MeshView {
  piece: string;
  joint: string | null;
  vertices: Float32Array;
  triangles: Int32Array;
  weights: Float32Array | null;
}

export interface KeyRef {
  channel: string;
  frame: number;
}

/** What was copied: keys of a motion, or whole poses of it. */
export interface Clip {
  motion: string;
  keys: KeyRef[];
  poses: number[];
}

/** Earlier and later frames that show under the work. */
export interface Onion {
  on: boolean;
  before: number;
  after: number;
  by: "frames" | "poses";
  every: number;
  look: "filled" | "outline";
  /** Percent. */
  strength: number;
  limb: boolean;
}

const ONION: Onion = {
  on: false,
  before: 2,
  after: 2,
  by: "frames",
  every: 2,
  look: "filled",
  strength: 45,
  limb: false,
};
/** The onion skin as the browser keeps it. */
export const keptOnion = (): Onion => keptFields("onion", ONION);
export const keepOnion = (onion: Onion): void => keep("onion", JSON.stringify(onion));

export type Reusing = "bring" | "rig" | "motions";

/** How a pointer is to be captured; while it is, `count` says how many counts are left, and nought that it is recorded. */
export interface CaptureWish {
  what: "place" | "turn" | "whole";
  /** Percent of full speed at which all else plays meanwhile. */
  speed: number;
  countIn: boolean;
  count: number | null;
}

/** An entry of a phoneme chart. */
export interface EntryRef {
  tier: "words" | "phones";
  id: string;
}

/** How finding the sounds of a line is going. */
export interface Listening {
  part: number;
  what: string;
}

/** A key of a shot: of the camera, or of one of its cast. */
export interface ShotKeyRef {
  cast: string | null;
  channel: string;
  frame: number;
}

/** Lines that help to frame: none, thirds, safe areas, or a shape of picture, as its width by its height. */
export type Guides = "none" | "thirds" | "safe" | number;

/** What of a shot is selected. */
export type ShotPick =
  | { kind: "cast"; id: string }
  | { kind: "span"; cast: string; id: string }
  | { kind: "camera" }
  | { kind: "sound"; id: string };

/** How fast it plays, as parts of full speed. */
export const SPEEDS = [1, 0.75, 0.5, 0.25];

export type Bench = "pieces" | "rig" | "motion" | "voice" | "shots" | "render";

export interface State extends Chronicle {
  id: string;
  ready: boolean;
  gone: boolean;
  connected: boolean;
  database: boolean;
  saved: Saved;
  /** The newest change that the plan on the stage has taken up. */
  settled: number;
  plan: Plan | null;
  pose: Pose | null;
  /** All frames as a command that is being tried would leave them. */
  trial: Trial | null;
  /** The poses whole, where some channels come late. */
  cards: Cards | null;
  spacing: Record<string, Spaced>;
  renders: Record<string, RenderView>;
  rig: RigReport | null;
  report: Verdict | null;
  mesh: MeshView | null;
  /** How far an import of this window has come, 0 to 1; null when none is going on. */
  importing: number | null;
  /** What an import brought that is to be asked about. */
  brought: Brought | null;
  choosing: Choosing | null;
  /** What is to be used again: a puppet whole, a rig for the puppet on the bench, or motions for it. */
  reusing: Reusing | null;
  /** A line that was brought in and needs more time than its motion has. */
  longLine: LongLine | null;
  puppet: string | null;
  motion: string | null;
  blocking: boolean;
  pieces: string[];
  /** The joint in hand: of several the one that was taken last. */
  joint: string | null;
  /** All joints in hand. */
  joints: string[];
  keys: KeyRef[];
  /** The planted span that is selected. */
  plant: string | null;
  /** The frames of the selected poses. */
  poses: number[];
  clip: Clip | null;
  frame: number;
  playing: boolean;
  loop: boolean;
  /** Whether only what is in hand shows, and by puppet which pieces are hidden for the moment. */
  isolated: boolean;
  unseen: Record<string, string[]>;
  capture: CaptureWish | null;
  /** Whether feet, handles and the whole puppet snap to the ground as they are moved. */
  snap: boolean;
  /** The joint at which a limb that is pulled begins; where it hangs on the body with none. */
  limbBegins: string | null;
  onion: Onion;
  /** Whether the path of the selected joint shows, its keys as last told, and what of it a hand pulls. */
  wayShown: boolean;
  way: { joint: string; keys: WayKey[] } | null;
  pulledWay: { frame: number; end: "before" | "after" | null; at: Point } | null;
  /** The box that a hand draws round what it takes, from corner to corner in stage units. */
  boxed: [Point, Point] | null;
  /** Where a hand carries the axis of the other side just now (stage units from the left). */
  axisAt: number | null;
  /** The recipe whose parameters show. */
  recipe: string | null;
  /** The line on the motion that is worked on, and the entry of its chart that is selected. */
  line: string | null;
  entry: EntryRef | null;
  /** The lines whose sounds are being found, by the voice. */
  listening: Record<string, Listening>;
  /** The line whose mouths are made as soon as its sounds are found. */
  mouthsWait: string | null;
  /** The shot that is worked on, its plan, and what of it is selected. */
  shot: string | null;
  shotPlan: ShotPlan | null;
  /** Whether the whole film is looked at instead of the shot, and the film's plan. */
  wholeFilm: boolean;
  film: FilmPlan | null;
  picked: ShotPick | null;
  shotKeys: ShotKeyRef[];
  /** The pass in which it shows, its own with null. */
  seenAs: Pass | null;
  /** Whether it is seen through the camera, or the whole stage with the camera's frame on it. */
  through: boolean;
  /** Whether what lies outside the picture is hidden, of a shot and where a puppet is worked on, and the lines that help
   * to frame it. */
  masked: boolean;
  cropped: boolean;
  guides: Guides;
  /** How the hand on the stage of a shot poses who is picked; null while it moves the cast. */
  posing: Pull | null;
  /** Frames over which a pose in a shot comes and goes. */
  poseOver: number;
  /** Where a hand moves one of the cast just now (stage units), before it lets go. */
  shifted: { cast: string; by: Point } | null;
  speed: number;
  /** Frames (the first and the end) that play round and round instead of the whole motion. */
  range: [number, number] | null;
  bench: Bench;
}

export const blank = (id: string): State => ({
  ...nothing,
  id,
  ready: false,
  gone: false,
  connected: false,
  database: true,
  saved: "saved",
  settled: -1,
  plan: null,
  pose: null,
  trial: null,
  cards: null,
  spacing: {},
  renders: {},
  rig: null,
  report: null,
  mesh: null,
  importing: null,
  brought: null,
  choosing: null,
  reusing: null,
  longLine: null,
  puppet: null,
  motion: null,
  blocking: false,
  pieces: [],
  joint: null,
  joints: [],
  keys: [],
  plant: null,
  poses: [],
  clip: null,
  frame: 0,
  playing: false,
  loop: true,
  isolated: false,
  unseen: {},
  capture: null,
  snap: kept("snap") !== "no",
  limbBegins: null,
  onion: keptOnion(),
  wayShown: true,
  way: null,
  pulledWay: null,
  boxed: null,
  axisAt: null,
  recipe: null,
  line: null,
  entry: null,
  listening: {},
  mouthsWait: null,
  shot: null,
  shotPlan: null,
  wholeFilm: false,
  film: null,
  picked: null,
  shotKeys: [],
  seenAs: null,
  through: true,
  masked: true,
  cropped: false,
  guides: "none",
  posing: null,
  poseOver: 6,
  shifted: null,
  speed: 1,
  range: null,
  bench: "pieces",
});

export const allPuppets = (documents: Record<string, Document>): Puppet[] =>
  Object.values(documents).filter((d): d is Puppet => d.kind === "puppet");
export const motionsOf = (documents: Record<string, Document>, puppet: string | null | undefined): Motion[] =>
  Object.values(documents).filter((d): d is Motion => d.kind === "motion" && d.puppet === puppet);
export const productionOf = (w: { documents: Record<string, Document> }): Production | undefined =>
  Object.values(w.documents).find((d): d is Production => d.kind === "production");
export const puppetOf = (w: Pick<State, "documents" | "puppet">): Puppet | undefined =>
  w.puppet ? (w.documents[w.puppet] as Puppet | undefined) : undefined;
export const motionOf = (w: Pick<State, "documents" | "motion">): Motion | undefined =>
  w.motion ? (w.documents[w.motion] as Motion | undefined) : undefined;

/** Where something is heard, and what. */
export interface Laid {
  placed: Pick<Placed, "id" | "at" | "mute">;
  voice: Voice;
}

/** A line that is placed on a motion, with its voice. */
export interface Line extends Laid {
  placed: Placed;
}

/** The lines on the motion that is shown, the earliest first. */
export function linesOf(w: Pick<State, "documents" | "motion">): Line[] {
  return Object.values(motionOf(w)?.sounds ?? {})
    .flatMap((placed) => {
      const voice = w.documents[placed.voice];
      return voice?.kind === "voice" ? [{ placed, voice }] : [];
    })
    .sort((a, b) => a.placed.at - b.placed.at);
}
/** The shots of the film, in their order. */
export function shotsOf(w: { documents: Record<string, Document> }): Shot[] {
  return (productionOf(w)?.shots ?? []).flatMap((id) => {
    const shot = w.documents[id];
    return shot?.kind === "shot" ? [shot] : [];
  });
}
export const shotOf = (w: Pick<State, "documents" | "shot">): Shot | undefined =>
  w.shot ? (w.documents[w.shot] as Shot | undefined) : undefined;

/** The frames of a shot that play: the first, and the one after the last. */
export const playedOf = (shot: Shot): [number, number] => [
  shot.first ?? 0,
  Math.min(shot.stop ?? shot.length, shot.length),
];

/** How many frames there are to walk through on the bench that is open, and which of them play. */
export function stretchOf(w: State): { frames: number; range: [number, number] | null } {
  if (w.bench !== "shots") return { frames: w.plan?.frames ?? 0, range: w.range };
  if (w.wholeFilm) return { frames: w.film?.frames ?? 0, range: w.range };
  const shot = shotOf(w);
  const frames = w.shotPlan?.frames ?? 0;
  if (w.range || !shot) return { frames, range: w.range };
  const [first, stop] = playedOf(shot);
  return { frames, range: first > 0 || stop < frames ? [first, Math.min(stop, frames)] : null };
}

/** Frames a second. */
export function frameRate(w: { documents: Record<string, Document> }): number {
  const { numerator, denominator } = productionOf(w)?.rate ?? USUAL_RATE;
  return numerator / denominator;
}

const USUAL_RATE = { numerator: NUMBERS["Rate.numerator"].untold, denominator: NUMBERS["Rate.denominator"].untold };

/** How wide and how high the stage is, in its own units. */
export function sizeOf(w: { documents: Record<string, Document> }): Point {
  const production = productionOf(w);
  return production ? [production.width, production.height] : USUAL_SIZE;
}

const USUAL_SIZE: Point = [NUMBERS["Production.width"].untold, NUMBERS["Production.height"].untold];

function pickedStill(shot: Shot | null, picked: ShotPick | null): ShotPick | null {
  if (!shot || !picked) return null;
  switch (picked.kind) {
    case "camera":
      return picked;
    case "cast":
      return shot.cast?.[picked.id] ? picked : null;
    case "sound":
      return shot.sounds?.[picked.id] ? picked : null;
    case "span": {
      const member = shot.cast?.[picked.cast];
      if (member?.kind !== "member") return null;
      return member.spans?.[picked.id] ? picked : { kind: "cast", id: picked.cast };
    }
  }
}

/** The channels of a shot's camera, or of one of its cast: of its place, and those laid over its motions. */
export function channelsOf(shot: Shot, cast: string | null): Record<string, Channel> {
  if (cast === null) return shot.camera?.channels ?? {};
  const member = shot.cast?.[cast];
  return member?.kind === "member" ? { ...member.place, ...member.over } : {};
}

/** What is looked at: another of these, and nothing that was tried is seen any more. */
const LOOKED_AT = ["frame", "puppet", "motion", "shot", "wholeFilm"] as const;

/**
 * What changes, with what has to go along: the motion is the puppet's, what is selected is theirs, and nothing that was
 * tried survives a change of the frame or of what is looked at. While a hand's motion is recorded its pose goes on.
 */
export function following(now: State, told: Partial<State>): Partial<State> {
  // One joint in hand is the only one, unless several are told.
  const given = told.joint === undefined || told.joints ? told : { ...told, joints: told.joint ? [told.joint] : [] };
  const other = LOOKED_AT.filter((name) => given[name] !== undefined && given[name] !== now[name]);
  if (!other.length || !now.ready) return given;
  const pose = "pose" in given || (given.playing ?? now.playing) ? {} : { pose: null };
  if (other.every((name) => name === "frame")) return { ...given, ...pose };
  const next = { ...now, ...given };
  const motion = next.motion ? next.documents[next.motion] : undefined;
  if (other.includes("motion") && motion?.kind === "motion" && !given.puppet) next.puppet = motion.puppet;
  return { ...given, ...pose, ...tidied(next) };
}

/** A line on a motion, and how many frames that needs for it. */
export interface LongLine {
  motion: string;
  sound: string;
  name: string;
  frames: number;
}

/** Selections without what is gone, and a puppet and motion where none is chosen. */
export function tidied(now: State): Partial<State> {
  const puppets = allPuppets(now.documents);
  const production = productionOf(now);
  const kept = puppets.find((p) => p.id === now.puppet);
  const puppet = kept ?? puppets.find((p) => p.id !== production?.backdrop) ?? puppets[0] ?? null;
  const motions = motionsOf(now.documents, puppet?.id);
  const motion = motions.find((m) => m.id === now.motion) ?? motions[0] ?? null;
  const pieces = now.pieces.filter((id) => puppet?.pieces?.[id]);
  const joints = now.joints.filter((id) => id === "puppet" || puppet?.joints?.[id]);
  const joint = now.joint && joints.includes(now.joint) ? now.joint : null;
  const limbBegins = now.limbBegins && puppet?.joints?.[now.limbBegins] ? now.limbBegins : null;
  const keys = now.keys.filter((k) => motion?.channels?.[k.channel]?.keys?.[String(k.frame)]);
  const poses = now.poses.filter((f) => motion?.poses?.[String(f)]);
  const plant = now.plant && motion?.plants?.[now.plant] ? now.plant : null;
  const here = { documents: now.documents, motion: motion?.id ?? null };
  const lines = linesOf(here);
  const line = lines.find((l) => l.placed.id === now.line) ?? lines[0] ?? null;
  const entry = now.entry && line?.voice.chart?.[now.entry.tier]?.[now.entry.id] ? now.entry : null;
  const shots = shotsOf(now);
  const shot = shots.find((s) => s.id === now.shot) ?? shots[0] ?? null;
  const wholeFilm = now.wholeFilm && shots.length > 0;
  const film = wholeFilm ? now.film?.frames : shot?.length;
  const long = (now.bench === "shots" ? film : motion?.length) ?? 0;
  const range = now.range && now.range[1] <= long ? now.range : null;
  return {
    puppet: puppet?.id ?? null,
    motion: motion?.id ?? null,
    pieces,
    joint,
    joints,
    limbBegins,
    keys,
    poses,
    plant,
    line: line?.placed.id ?? null,
    entry,
    range,
    shot: shot?.id ?? null,
    wholeFilm,
    picked: pickedStill(shot, now.picked),
    shotKeys: now.shotKeys.filter((k) => shot && channelsOf(shot, k.cast)[k.channel]?.keys?.[String(k.frame)]),
  };
}
