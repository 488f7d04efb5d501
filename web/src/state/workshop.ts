/**
 * What the page knows: the documents as the service last told, the plan to draw, and what the
 * user has selected. Nothing here computes a pose; it keeps what came over the wire.
 */
import { create } from "zustand";
import * as http from "../api/http";
import { Live } from "../api/live";
import type { Command, Document, DrawnMessage, FromService, Gap, Item, Motion, Places, Point, Problem, Production, Pull, Puppet, RenderView, Report, RigReport, Step, Watch } from "../api/types";
import type { Frames } from "../stage/painter";

/** For each limb that reaches: frames × joints × x y when only turned and only reaching, and the blend in percent. */
export type Reached = Record<string, { turned: Float32Array; reached: Float32Array; blend: Float32Array }>;

export interface Plan {
  drawn: Frames;
  frames: number;
  joints: string[];
  /** frames × joints × 6 */
  worlds: Float32Array;
  reached: Reached;
  rest: { drawn: Frames; worlds: Float32Array };
  behind: Frames | null;
  watch: Watch;
  places: Places;
}

/** The mesh of a piece that bends, at rest in drawing units, with one joint's weights. */
export interface MeshView {
  piece: string;
  joint: string | null;
  vertices: Float32Array;
  triangles: Int32Array;
  weights: Float32Array | null;
}

/** A channel as evaluated: where its in-betweens fall, and its values, number by number over all frames. */
export interface Spaced {
  gaps: Gap[];
  values: Float32Array;
}

export interface Pose {
  frame: number;
  drawn: Frames;
  joints: string[];
  worlds: Float32Array;
  reached: Reached;
  tried: Record<string, number[]>;
  places: Places;
}

export interface Notice {
  id: number;
  good: boolean;
  title: string;
  text: string;
  more?: string[];
}

export interface KeyRef {
  channel: string;
  frame: number;
}

export type Bench = "pieces" | "rig" | "motion" | "render";
type Saved = "saved" | "saving" | "waiting";

interface Workshop {
  id: string;
  window: string;
  ready: boolean;
  gone: boolean;
  connected: boolean;
  database: boolean;
  saved: Saved;
  seq: number;
  /** The newest change that the plan on the stage has taken up. */
  settled: number;
  documents: Record<string, Document>;
  undo: Step | null;
  redo: Step | null;
  plan: Plan | null;
  pose: Pose | null;
  spacing: Record<string, Spaced>;
  renders: Record<string, RenderView>;
  rig: RigReport | null;
  mesh: MeshView | null;
  /** How far an import of this window has come, 0 to 1; null when none is going on. */
  importing: number | null;
  puppet: string | null;
  motion: string | null;
  blocking: boolean;
  pieces: string[];
  joint: string | null;
  keys: KeyRef[];
  frame: number;
  playing: boolean;
  loop: boolean;
  notices: Notice[];
  isolated: boolean;
  bench: Bench;
}

export const useWorkshop = create<Workshop>(() => blank(""));

function blank(id: string): Workshop {
  return {
    id,
    window: crypto.randomUUID(),
    ready: false,
    gone: false,
    connected: false,
    database: true,
    saved: "saved",
    seq: -1,
    settled: -1,
    documents: {},
    undo: null,
    redo: null,
    plan: null,
    pose: null,
    spacing: {},
    renders: {},
    rig: null,
    mesh: null,
    importing: null,
    puppet: null,
    motion: null,
    blocking: false,
    pieces: [],
    joint: null,
    keys: [],
    frame: 0,
    playing: false,
    loop: true,
    notices: [],
    isolated: false,
    bench: "pieces",
  };
}

export const set = useWorkshop.setState;
export const get = useWorkshop.getState;

let live: Live | null = null;
let counter = 0;

/** Open a production: connect, and follow it until `leave`. */
export function enter(id: string): void {
  leave();
  set(blank(id), true);
  live = new Live(id, { message: hear, open: (connected) => set({ connected }) });
  void http.renders(id).then((all) => set({ renders: Object.fromEntries(all.map((r) => [r.id, r])) }), () => undefined);
}

export function leave(): void {
  live?.close();
  live = null;
}

const floats = (bytes: Uint8Array): Float32Array => new Float32Array(bytes.slice().buffer);

function drawn(items: readonly Item[], m: DrawnMessage): Frames {
  return {
    items,
    matrices: floats(m.matrices),
    shown: m.shown ? new Int16Array(m.shown.slice().buffer) : null,
    points: (m.points ?? []).map((p) => ({ item: p.item, drawing: p.drawing, count: p.count, data: floats(p.data) })),
  };
}

const reached = (m: DrawnMessage): Reached =>
  Object.fromEntries(Object.entries(m.reached ?? {}).map(([id, [turned, reached, blend]]) => [id, { turned: floats(turned), reached: floats(reached), blend: floats(blend) }]));

/** An array of frames with some of them replaced, from frame `start` on. */
function patched<A extends Float32Array | Int16Array>(before: A, part: A, start: number, frames: number): A {
  const whole = before.slice() as A;
  whole.set(part, (start * before.length) / frames);
  return whole;
}

/** When a pose that was asked for arrives, whoever asked is told before the page redraws. */
const awaiting = new Map<number, (pose: Pose) => void>();

/** The page says of itself whether a pose that it asked for is still to come. */
function tellAsking(): void {
  document.documentElement.toggleAttribute("data-asking", awaiting.size > 0);
}

function ask(n: number, done: (pose: Pose) => void): void {
  awaiting.set(n, done);
  tellAsking();
}

function hear(message: FromService): void {
  const now = get();
  switch (message.type) {
    case "changed":
      if (message.seq >= now.seq) {
        set({ ...taken(now.documents, message.changed, message.removed, now.ready), seq: message.seq, undo: message.undo, redo: message.redo, ready: true });
        tidy();
      }
      return;
    case "plan":
      set({
        plan: {
          drawn: drawn(message.items, message),
          frames: message.frames,
          joints: message.joints,
          worlds: floats(message.worlds),
          reached: reached(message),
          rest: { drawn: drawn(message.items, message.rest), worlds: floats(message.rest.worlds) },
          behind: message.behind ? drawn(message.behind.items, message.behind) : null,
          watch: message.watch,
          places: message.places ?? {},
        },
        frame: Math.min(now.frame, message.frames - 1),
      });
      return;
    case "part": {
      if (!now.plan) return;
      const { plan } = now;
      const { start } = message;
      const part = drawn(plan.drawn.items, message);
      const shown = part.shown || plan.drawn.shown ? patched(allShown(plan.drawn, plan.frames), part.shown ?? allShown(plan.drawn, message.stop - start, true), start, plan.frames) : null;
      const points = plan.drawn.points.map((b) => {
        const new_ = part.points.find((p) => p.item === b.item && p.drawing === b.drawing);
        return new_ ? { ...b, data: patched(b.data, new_.data, start, plan.frames) } : b;
      });
      const limbs = Object.entries(reached(message)).map(([id, r]) => {
        const old = plan.reached[id];
        return [id, old ? { turned: patched(old.turned, r.turned, start, plan.frames), reached: patched(old.reached, r.reached, start, plan.frames), blend: patched(old.blend, r.blend, start, plan.frames) } : r] as const;
      });
      set({
        plan: {
          ...plan,
          drawn: { ...plan.drawn, matrices: patched(plan.drawn.matrices, part.matrices, start, plan.frames), shown, points },
          worlds: patched(plan.worlds, floats(message.worlds), start, plan.frames),
          reached: { ...plan.reached, ...Object.fromEntries(limbs) },
        },
      });
      return;
    }
    case "rig": {
      const { type: _type, ...rig } = message;
      void _type;
      set({ rig });
      return;
    }
    case "mesh":
      set({
        mesh: {
          piece: message.piece,
          joint: message.joint,
          vertices: floats(message.vertices),
          triangles: new Int32Array(message.triangles.slice().buffer),
          weights: message.weights ? floats(message.weights) : null,
        },
      });
      return;
    case "import":
      if (message.window === now.window && now.importing !== null) set({ importing: message.part });
      return;
    case "spacing": {
      const spacing = { ...now.spacing };
      for (const [id, found] of Object.entries(message.channels)) spacing[id] = { gaps: found.gaps, values: floats(found.values) };
      for (const id of message.gone) delete spacing[id];
      set({ spacing });
      return;
    }
    case "pose": {
      const { frame, tried } = message;
      const items = message.items ?? now.plan?.drawn.items ?? [];
      const joints = message.joints ?? now.plan?.joints ?? [];
      const pose: Pose = { places: message.places ?? now.plan?.places ?? {}, frame, joints, tried, drawn: drawn(items, message), reached: reached(message), worlds: floats(message.worlds) };
      const asked = awaiting.get(message.n);
      awaiting.delete(message.n);
      asked?.(pose);
      tellAsking();
      return;
    }
    case "grabbed":
      set({ joint: message.joint });
      return;
    case "settled":
      set({ settled: message.seq });
      return;
    case "render":
      set({ renders: { ...now.renders, [message.render.id]: message.render } });
      return;
    case "database":
      set({ database: message.here });
      return;
    case "refused":
      awaiting.clear();
      tellAsking();
      notify(false, "That can't be done", message.what, [message.remedy].filter(Boolean));
      return;
    case "removed":
      set({ gone: true });
      return;
    case "gone":
      set({ plan: null, pose: null });
  }
}

/** Which drawing of each item shows in every frame, written out. */
function allShown(f: Frames, frames: number, atRest = false): Int16Array {
  if (f.shown && !atRest) return f.shown;
  const one = f.items.map((i) => i.rest);
  return Int16Array.from({ length: frames * one.length }, (_, k) => one[k % one.length]!);
}

function taken(before: Record<string, Document>, changed: Document[], removed: string[], merge: boolean): { documents: Record<string, Document> } {
  const documents = merge ? { ...before } : {};
  for (const document of changed) documents[document.id] = document;
  for (const id of removed) delete documents[id];
  return { documents };
}

/** Let go of selections whose things are gone, and choose a puppet and motion where none is chosen. */
function tidy(): void {
  const now = get();
  const puppets = allPuppets(now.documents);
  const production = productionOf(now);
  const kept = puppets.find((p) => p.id === now.puppet);
  const puppet = kept ?? puppets.find((p) => p.id !== production?.backdrop) ?? puppets[0] ?? null;
  const motions = motionsOf(now.documents, puppet?.id);
  const motion = motions.find((m) => m.id === now.motion) ?? motions[0] ?? null;
  const pieces = now.pieces.filter((id) => puppet?.pieces?.[id]);
  const joint = now.joint && (now.joint === "puppet" || puppet?.joints?.[now.joint]) ? now.joint : null;
  const keys = now.keys.filter((k) => motion?.channels?.[k.channel]?.keys?.[String(k.frame)]);
  set({ puppet: puppet?.id ?? null, motion: motion?.id ?? null, pieces, joint, keys });
}

export const allPuppets = (documents: Record<string, Document>): Puppet[] =>
  Object.values(documents).filter((d): d is Puppet => d.kind === "puppet");
export const motionsOf = (documents: Record<string, Document>, puppet: string | null | undefined): Motion[] =>
  Object.values(documents).filter((d): d is Motion => d.kind === "motion" && d.puppet === puppet);
export const productionOf = (w: { documents: Record<string, Document> }): Production | undefined =>
  Object.values(w.documents).find((d): d is Production => d.kind === "production");
export const puppetOf = (w: Pick<Workshop, "documents" | "puppet">): Puppet | undefined =>
  w.puppet ? (w.documents[w.puppet] as Puppet | undefined) : undefined;
export const motionOf = (w: Pick<Workshop, "documents" | "motion">): Motion | undefined =>
  w.motion ? (w.documents[w.motion] as Motion | undefined) : undefined;
export const useProduction = () => useWorkshop(productionOf);
export const usePuppet = () => useWorkshop(puppetOf);
export const useMotion = () => useWorkshop(motionOf);

export function watch(wanted: Watch): void {
  set({ pose: null, spacing: {}, mesh: null });
  live?.watch(wanted);
}

/* Changes: sent one after the other, and again until they are acknowledged. */

let line: Promise<unknown> = Promise.resolve();

function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const result = line.then(work, work);
  line = result.catch(() => undefined);
  return result;
}

async function insist<T>(work: () => Promise<T>): Promise<T> {
  for (let wait = 300; ; wait = Math.min(wait * 1.6, 3000)) {
    try {
      set({ saved: get().saved === "waiting" ? "waiting" : "saving" });
      const done = await work();
      set({ saved: "saved" });
      return done;
    } catch (error) {
      if (!(error instanceof http.ServiceError && error.passing)) {
        set({ saved: "saved" });
        throw error;
      }
      set({ saved: "waiting", ...(error.problem.kind === "database-away" ? { database: false } : {}) });
      await new Promise((done) => setTimeout(done, wait));
    }
  }
}

function acknowledge(ack: { seq: number; changed: Document[]; removed: string[]; undo: Step | null; redo: Step | null }): void {
  const now = get();
  set({ database: true });
  if (ack.seq > now.seq) {
    set({ ...taken(now.documents, ack.changed, ack.removed, true), seq: ack.seq, undo: ack.undo, redo: ack.redo });
    tidy();
  }
}

/** Make a change. Resolves once it is on disk; false if it was refused (the user is told why). */
export function submit(command: Command): Promise<boolean> {
  const id = crypto.randomUUID();
  return inTurn(async () => {
    try {
      acknowledge(await insist(() => http.sendChange(get().id, { id, window: get().window, base: get().seq, command })));
      return true;
    } catch (error) {
      tell(error);
      return false;
    }
  });
}

/** Make a change and keep showing the tried pose until the plan has caught up with it. */
export async function submitTried(command: Command): Promise<boolean> {
  const done = await submit(command);
  const wanted = get().seq;
  for (let i = 0; i < 60 && get().settled < wanted; i++) await new Promise((tick) => setTimeout(tick, 8));
  set({ pose: null });
  return done;
}

export function turn(way: "undo" | "redo"): Promise<void> {
  const id = crypto.randomUUID();
  return inTurn(async () => {
    const step = get()[way];
    if (!step) return;
    try {
      acknowledge(await insist(() => http.sendTurn(get().id, way, { id, window: get().window, target: step.seq })));
    } catch (error) {
      tell(error);
    }
  });
}

export interface Bringing {
  puppet: string;
  loose?: boolean;
  purpose?: "pieces" | "drawings" | "new-version" | "reference";
  /** The piece that gets drawings, or the file whose new version this is. */
  target?: string;
  /** Only say what would happen. */
  dry?: boolean;
}

export function importFiles(files: File[], { puppet, loose = false, purpose = "pieces", target = "", dry = false }: Bringing): Promise<Report | null> {
  const change = crypto.randomUUID();
  return inTurn(async () => {
    const { id, window, seq } = get();
    set({ saved: "saving", importing: 0 });
    try {
      const report = await http.importArt(id, files, { puppet, change, window, base: String(seq), loose: String(loose), purpose, target, dry: String(dry) });
      if (report.ack) acknowledge(report.ack as never);
      return report;
    } catch (error) {
      tell(error);
      return null;
    } finally {
      set({ saved: "saved", importing: null });
    }
  });
}

/* Tries: asked over the live socket, answered by the core. */

/** Ask for the pose that a hand's place makes, once `grab` has closed on a joint. */
export function drag(at: Point, wholeSteps: boolean, done: (pose: Pose) => void): void {
  ask(++counter, done);
  live?.send({ type: "drag", n: counter, at, whole_steps: wholeSteps });
}

export function grab(frame: number, joint: string, piece: string | null, pull: Pull, at: Point, tried: Record<string, number[]>): void {
  live?.send({ type: "grab", frame, joint, piece, pull, at, tried });
}

export function tryPose(frame: number, tried: Record<string, number[]>, done: (pose: Pose) => void): void {
  ask(++counter, done);
  live?.send({ type: "try-pose", n: counter, frame, tried });
}

export function tryCommand(command: Command, done: (pose: Pose) => void): void {
  ask(++counter, done);
  live?.send({ type: "try-command", n: counter, command });
}

/** Ask for the mesh of a piece that bends, with the weights of one joint. */
export function lookAtMesh(piece: string, joint: string | null): void {
  live?.send({ type: "look-at-mesh", piece, joint });
}

/* Telling the user. */

export function notify(good: boolean, title: string, text: string, more?: string[]): void {
  const notice = { id: ++counter, good, title, text, more };
  set((w) => ({ notices: [...w.notices.slice(-2), notice] }));
  if (good) setTimeout(() => dismiss(notice.id), 5000);
}

export const dismiss = (id: number): void => set((w) => ({ notices: w.notices.filter((n) => n.id !== id) }));

export function tell(error: unknown): void {
  const problem: Problem =
    error instanceof http.ServiceError ? error.problem : { status: 0, title: "Something went wrong", detail: String(error) };
  const text = problem.where && !problem.detail.includes(problem.where) ? `${problem.where}: ${problem.detail}` : problem.detail;
  const both = problem.mine ? [`Yours: ${problem.mine}`, ...(problem.theirs ?? []).map((t) => `The other window: ${t}`)] : [];
  notify(false, problem.title, text, [...both, problem.remedy ?? ""].filter(Boolean));
}

export const freshId = (): string => crypto.randomUUID().replaceAll("-", "").slice(0, 12);
