/** The session that is open, for components (`useWorkshop`) and for what the hand does on the stage. */
import * as http from "../wire/http";
import { acts } from "./acts";
import type { Asked, Becoming } from "./morphs";
import { useStore } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { createStore } from "zustand/vanilla";
import type { Ack, Command, Fitting, Point, Pull, Report, Target, TouchUp, Using } from "../wire/types";
import { notices } from "./notices";
import type { Pose, Trial } from "./plan";
import { Session, type Into } from "./session";
import type { Bringing } from "./state";
import {
  blank,
  keepOnion,
  linesOf,
  motionOf,
  motionsOf,
  productionOf,
  puppetOf,
  shotOf,
  sizeOf,
  type Line,
  type Onion,
  type State,
} from "./state";

export { freshId } from "../wire/ids";
export { gathered } from "./gathered";
export { hangsOn } from "./hanging";
export { keep, kept, keptFields } from "../kept";
export type { Bringing, Brought, Choosing, Reusing } from "./state";
export type { Cel, ShotPlan } from "./shotPlan";
export { partAt, type FilmPlan } from "./film";
export { valuesIn, type Spaced } from "./spacing";
export { mustStay } from "./outbox";
export type { Cards, Plan, Pose, Reached, Trial } from "./plan";
export {
  SPEEDS,
  allPuppets,
  frameRate,
  linesOf,
  motionOf,
  stretchOf,
  motionsOf,
  playedOf,
  channelsOf,
  productionOf,
  puppetOf,
  shotOf,
  shotsOf,
  sizeOf,
  type Guides,
  type ShotKeyRef,
  type ShotPick,
  type Bench,
  type CaptureWish,
  type EntryRef,
  type Laid,
  type Line,
  type KeyRef,
  type Onion,
  type Verdict,
  type LongLine,
  type State,
} from "./state";

const open = createStore<{ session: Session | null }>(() => ({ session: null }));
const nobody = createStore<State>(() => blank(""));

/** Open a production: connect, and follow it until `leave`. */
export function enter(id: string): Session {
  open.getState().session?.close();
  const session = new Session(id);
  open.setState({ session });
  return session;
}

/** Close a session. */
export function leave(session: Session): void {
  session.close();
  if (open.getState().session === session) open.setState({ session: null });
}

export const useSession = (): Session | null => useStore(open, (o) => o.session);
export const useWorkshop = <T>(select: (state: State) => T): T => useStore(useSession()?.store ?? nobody, select);
export const useProduction = () => useWorkshop(productionOf);
export const useSize = (): Point => useWorkshop(useShallow(sizeOf));
export const usePuppet = () => useWorkshop(puppetOf);
export const useMotion = () => useWorkshop(motionOf);
export const useShot = () => useWorkshop(shotOf);
/** The line that is worked on. */
export const useLine = (): Line | undefined => {
  const line = useWorkshop((w) => w.line);
  const documents = useWorkshop((w) => w.documents);
  const motion = useWorkshop((w) => w.motion);
  return linesOf({ documents, motion }).find((l) => l.placed.id === line);
};

const here = (): Session => {
  const { session } = open.getState();
  if (!session) throw new Error("no production is open");
  return session;
};

export const get = (): State => (open.getState().session?.store ?? nobody).getState();
export const { turnTo, pickOut, see, tryOut, awaitRender, forgetRender } = acts(() => open.getState().session);
/** Put a puppet on the bench, with its first motion and nothing selected. */
export const lookAt = (puppet: string): void =>
  turnTo({
    puppet,
    motion: motionsOf(get().documents, puppet)[0]?.id ?? null,
    pieces: [],
    joint: null,
    keys: [],
    poses: [],
    line: null,
    entry: null,
    range: null,
    frame: 0,
    pose: null,
  });
/** Follow what the open session knows, until the function given back is called. */
export const subscribe = (told: (now: State, before: State) => void): (() => void) => here().store.subscribe(told);

export const submit = (command: Command): Promise<boolean> => here().submit(command);
export const made = (command: Command): Promise<Ack | null> => here().made(command);
export const madeTried = (command: Command): Promise<Ack | null> => here().madeTried(command);
export const submitTried = (command: Command): Promise<boolean> => here().submitTried(command);
export const caughtUp = (): Promise<void> => here().caughtUp();
export const turn = (way: "undo" | "redo"): Promise<void> => here().turn(way);
export const watch = (target: Target): void => here().watch(target);
export const importFiles = (files: File[], bringing: Bringing): Promise<Report | null> =>
  here().importFiles(files, bringing);
export const lookInto = (file: File) => here().lookInto(file);
export const stopImport = (): Promise<void> => here().stopImport();
export const grab = (
  frame: number,
  joint: string,
  piece: string | null,
  pull: Pull,
  at: Point,
  tried: Record<string, number[]>,
  cast: string | null = null,
): void => here().grab(frame, joint, piece, pull, at, tried, cast);
export const drag = (at: Point, wholeSteps: boolean): Promise<Pose | null> => here().drag(at, wholeSteps);
export const tryPose = (frame: number, tried: Record<string, number[]>): Promise<Pose | null> =>
  here().tryPose(frame, tried);
export const lookAtWay = (joint: string | null): void => here().lookAtWay(joint);
/** Change how the onion skin shows, and keep that in this browser. */
export function setOnion(part: Partial<Onion>): void {
  const onion = { ...get().onion, ...part };
  keepOnion(onion);
  see({ onion });
}
export const lookAtRest = (tried: Record<string, number[]>, live: () => boolean): Promise<Pose | null> =>
  here().lookAtRest(tried, live);
export const tryWhole = (command: Command): Promise<Trial | null> => here().tryWhole(command);
export const tryCommand = (command: Command, frame = 0): Promise<Pose | null> => here().tryCommand(command, frame);
export const sameTrial = (): (() => boolean) => here().sameTrial();
export const putBack = (): void => open.getState().session?.putBack();
export const askMorph = (asked: Asked): Promise<Becoming | null> => here().askMorph(asked);
export const part = (way: "split" | "join", pieces: string[]) => here().part(way, pieces);
export const touchUp = (of: { puppet: string; piece: string; drawing: string; touch: TouchUp }) => here().touchUp(of);
export const partsOf = (puppet: string, piece: string, drawing: string) =>
  http.partsOf(here().id, puppet, piece, drawing);
export const lookAtFitting = (asked: Fitting) => http.lookAtFitting(here().id, asked);
export const shelveRig = (puppet: string, name: string) => http.shelveRig(here().id, puppet, name);
export const reuse = (asked: Omit<Using, "change" | "window" | "base">) => here().reuse(asked);
export const proposeRig = (puppet: string, said: ReadonlyMap<string, string | null>) =>
  http.proposeRig(here().id, puppet, said);
export const drawRightWayRound = (of: { puppet: string; dial: string; at: number; piece: string }) =>
  here().drawRightWayRound(of);
export const keepBetweens = (piece: string, frames: number[], then: "hold" | "morph"): Promise<boolean | null> =>
  here().keepBetweens(piece, frames, then);
export const lookAtMesh = (piece: string, joint: string | null): void => here().lookAtMesh(piece, joint);

/** By how many frames what shows while playing is late. */
export const lateness = (): number => here().clock.lateness;
export const toggle = (): void => here().clock.toggle();
export const stop = (): void => here().clock.stop();
export const goTo = (frame: number): void => here().clock.goTo(frame);
/** Go to a frame, and let a grain of what is heard there be heard. */
export const scrub = (frame: number): void => here().clock.scrub(frame);
export const bringSound = (file: File, into: Into) => here().bringSound(file, into);
export const bringChart = (voice: string, file: File) => here().bringChart(voice, file);
export const bringTimeline = (file: File) => here().bringTimeline(file);
export const listen = (voice: string, text: string, language: string, spread = false) =>
  here().listen(voice, text, language, spread);
export const stopListening = (voice: string) => here().stopListening(voice);
/** What a line's sound looks like, once its peaks are here. */
export const peaksOf = (asset: string) => here().sounding.peaks(asset);
export const toKey = (way: 1 | -1): void => here().clock.toKey(way);
export const toCard = (way: 1 | -1): void => here().clock.toCard(way);

const board = () => open.getState().session?.notices ?? notices;
/** The notices to show: those of the open session, or of the page. */
export const useNotices = () => useStore((useSession()?.notices ?? notices).store, (s) => s.notices);
export const notify = (good: boolean, title: string, text: string, more?: string[]): void =>
  board().notify(good, title, text, more);
export const dismiss = (id: number): void => board().dismiss(id);
export const tell = (error: unknown): void => board().tell(error);
