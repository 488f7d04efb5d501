/** Requests to the service. Every failure is a `Problem`. */
import type {
  Ack,
  BetweensAsked,
  Command,
  DrawingParts,
  Exposed,
  Fitting,
  FittingView,
  Glance,
  Language,
  Lately,
  ListedView,
  MovedView,
  Overview,
  Parting,
  Problem,
  Proposal,
  PuppetGlance,
  RenderOrder,
  RenderView,
  Report,
  RetouchedPart,
  RightWayRound,
  RigView,
  SessionView,
  SharesView,
  SheetLine,
  SoundReport,
  TouchingUp,
  Used,
  Using,
} from "./types";

export class ServiceError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
  /** Whether trying again later may help. */
  get passing(): boolean {
    return this.problem.status === 0 || this.problem.status >= 502;
  }
}

/** Told to the window when whoever was signed in is so no more, and when somebody has signed in. */
export const SIGNED_OUT = "sorvan:signed-out";
export const SIGNED_IN = "sorvan:signed-in";

/** Who was last known to be signed in. */
let person: string | null = null;

/**
 * Do something again, at growing intervals, as long as trying again may help. `told` hears of each failure. What finds
 * nobody signed in any more waits for whom it was done by; it is refused once somebody else signs in.
 */
export async function patiently<T>(work: () => Promise<T>, told: (error: ServiceError) => void = () => {}): Promise<T> {
  const who = person;
  for (let wait = 300; ; wait = Math.min(wait * 1.6, 3000)) {
    try {
      return await work();
    } catch (error) {
      if (!(error instanceof ServiceError)) throw error;
      const signedOut = error.problem.status === 401 && who !== null;
      if (!signedOut && !error.passing) throw error;
      told(error);
      if (!signedOut) await new Promise((done) => setTimeout(done, wait));
      else if ((await signedInAgain()) !== who) throw error;
    }
  }
}

const signedInAgain = (): Promise<string | null> =>
  new Promise((done) => window.addEventListener(SIGNED_IN, () => done(person), { once: true }));

/** The service's answer. Raises `ServiceError` if there is none, or a refusal. */
async function answered(path: string, init?: RequestInit): Promise<Response> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, init);
  } catch {
    throw new ServiceError({
      status: 0,
      title: "No answer",
      detail: "Sorvan does not answer.",
      remedy: "Is it still running?",
    });
  }
  if (answer.status === 401 && path !== "/session") window.dispatchEvent(new Event(SIGNED_OUT));
  if (!answer.ok) {
    const fallback: Problem = {
      status: answer.status,
      title: answer.statusText,
      detail: `The service failed (${answer.status}).`,
    };
    throw new ServiceError(await answer.json().catch(() => fallback));
  }
  return answer;
}

async function ask<T>(path: string, init?: RequestInit): Promise<T> {
  const answer = await answered(path, init);
  return answer.status === 204 ? (undefined as T) : ((await answer.json()) as T);
}

const json = (method: string, body: unknown): RequestInit => ({
  method,
  headers: { "Content-Type": "application/json" },
  body: JSON.stringify(body),
});

async function known(asked: Promise<SessionView>): Promise<SessionView> {
  const found = await asked;
  if (found.user === null) return found;
  person = found.user;
  window.dispatchEvent(new Event(SIGNED_IN));
  return found;
}
export const session = () => known(ask<SessionView>("/session"));
export const signIn = (name: string, password: string) =>
  known(ask<SessionView>("/session", json("POST", { name, password })));
export async function signOut(): Promise<void> {
  await ask<void>("/session", { method: "DELETE" });
  window.dispatchEvent(new Event(SIGNED_OUT));
}
export const shares = (production: string) => ask<SharesView>(`/productions/${production}/shares`);
export const share = (production: string, name: string, may: "look" | "edit" | null) =>
  ask<SharesView>(`/productions/${production}/shares`, json("PUT", { name, may }));

export const productions = () => ask<ListedView[]>("/productions");
export const createProduction = (name: string) => ask<ListedView>("/productions", json("POST", { name }));
export const removeProduction = (id: string) => ask<void>(`/productions/${id}`, { method: "DELETE" });

export function loadArchive(file: File): Promise<ListedView> {
  const form = new FormData();
  form.append("file", file);
  return ask<ListedView>("/productions/archive", { method: "POST", body: form });
}

export interface Sent {
  id: string;
  window: string;
  base: number;
  command: Command;
}

export const sendChange = (production: string, sent: Sent) =>
  ask<Ack>(`/productions/${production}/changes`, json("POST", sent));
export const sendTurn = (
  production: string,
  way: "undo" | "redo",
  turn: { id: string; window: string; target: number },
) => ask<Ack>(`/productions/${production}/${way}`, json("POST", turn));

export const lately = (production: string) => ask<Lately>(`/productions/${production}/lately`);
/** The last is sent even while the page is left. */
export const putLately = (production: string, place: Lately, last: boolean) =>
  ask<void>(`/productions/${production}/lately`, { ...json("PUT", place), keepalive: last });

const places = new WeakMap<File, string>();
/** Remember where in a folder a dropped file lay. */
export const setPlace = (file: File, place: string): void => void places.set(file, place);
export const placeOf = (file: File): string => places.get(file) || file.webkitRelativePath || file.name;

export function importArt(production: string, files: File[], fields: Record<string, string>): Promise<Report> {
  const form = new FormData();
  for (const file of files) {
    form.append("files", file);
    form.append("paths", placeOf(file));
  }
  for (const [key, value] of Object.entries(fields)) form.append(key, value);
  return ask<Report>(`/productions/${production}/art`, { method: "POST", body: form });
}

export const lookInto = (production: string, file: File, fields: Record<string, string>): Promise<DrawingParts> =>
  ask(`/productions/${production}/art/parts`, { method: "POST", body: formOf(file, fields) });

export const cancelImport = (production: string, change: string): Promise<void> =>
  ask(`/productions/${production}/imports/${change}`, { method: "DELETE" });

function formOf(file: File, fields: Record<string, string>): FormData {
  const form = new FormData();
  form.append("file", file);
  for (const [key, value] of Object.entries(fields)) form.append(key, value);
  return form;
}

export const languages = () => ask<Language[]>("/languages");
export const keepBetweens = (production: string, asked: BetweensAsked) =>
  ask<Ack>(`/productions/${production}/betweens`, json("POST", asked));
export const part = (production: string, way: "split" | "join", asked: Parting) =>
  ask<Ack>(`/productions/${production}/${way}`, json("POST", asked));
export const touchUp = (production: string, asked: TouchingUp) =>
  ask<Ack>(`/productions/${production}/touch-up`, json("POST", asked));
export const partsOf = (production: string, puppet: string, piece: string, drawing: string) =>
  ask<RetouchedPart[]>(`/productions/${production}/puppets/${puppet}/pieces/${piece}/drawings/${drawing}/parts`);
export const proposeRig = (production: string, puppet: string, said: ReadonlyMap<string, string | null>) => {
  const answers = new URLSearchParams([...said].map(([joint, on]) => ["said", `${joint}:${on ?? ""}`]));
  return ask<Proposal>(`/productions/${production}/puppets/${puppet}/proposed-rig?${answers}`);
};
export const rigs = () => ask<RigView[]>("/rigs");
export const removeRig = (rig: string) => ask<void>(`/rigs/${rig}`, { method: "DELETE" });
export const shelveRig = (production: string, puppet: string, name: string) =>
  ask<RigView>(`/productions/${production}/rigs`, json("POST", { puppet, name }));
export const puppetsOf = (production: string) => ask<PuppetGlance[]>(`/productions/${production}/puppets`);
export const lookAtFitting = (production: string, asked: Fitting) =>
  ask<FittingView>(`/productions/${production}/fitting`, json("POST", asked));
export const reuse = (production: string, asked: Using) =>
  ask<Used>(`/productions/${production}/reuse`, json("POST", asked));
export const drawRightWayRound = (production: string, asked: RightWayRound) =>
  ask<Ack>(`/productions/${production}/right-way-round`, json("POST", asked));
export const bringSound = (production: string, file: File, fields: Record<string, string>) =>
  ask<SoundReport>(`/productions/${production}/voices`, { method: "POST", body: formOf(file, fields) });
const line = (production: string, voice: string) => `/productions/${production}/voices/${voice}`;
export const align = (production: string, voice: string, text: string, language: string, spread: boolean) =>
  ask<void>(`${line(production, voice)}/align`, json("POST", { text, language, spread }));
export const cancelAlign = (production: string, voice: string) =>
  ask<void>(`${line(production, voice)}/align`, { method: "DELETE" });
export const bringChart = (production: string, voice: string, file: File, fields: Record<string, string>) =>
  ask<Ack>(`${line(production, voice)}/chart`, { method: "POST", body: formOf(file, fields) });
/** Where a line's chart is fetched as a file. */
export const chartFile = (production: string, voice: string, format: "long" | "short" | "csv") =>
  `/api${line(production, voice)}/chart?format=${format}`;
export const exposure = (production: string, motion: string) =>
  ask<Exposed>(`/productions/${production}/motions/${motion}/exposure`);
export const exposureSheet = (production: string, motion: string) =>
  ask<SheetLine[]>(`/productions/${production}/motions/${motion}/sheet`);
/** Where what is said on a motion is fetched as captions, for a film that begins with a frame (from 1). */
export const captionsFile = (production: string, of: Record<string, string>) =>
  `/api/productions/${production}/captions?${new URLSearchParams(of)}`;
/** Where a motion's exposure sheet is fetched as a file. */
export const sheetFile = (production: string, motion: string) =>
  `/api/productions/${production}/motions/${motion}/sheet.pdf`;

/** The whole film at a glance, and a small picture of one of its shots; `looks` changes with how it looks. */
export const overview = (production: string) => ask<Overview>(`/productions/${production}/overview`);
export const thumbnailOf = (production: string, shot: string, looks: string): string =>
  `/api/productions/${production}/shots/${shot}/picture?v=${looks}`;
/** A small picture of a frame (from 1) of a shot, or of the film. */
export const frameOf = (production: string, shot: string | null, frame: number, looks: string): string =>
  `/api/productions/${production}/${shot ? `shots/${shot}` : "film"}/picture?frame=${frame}&v=${looks}`;
/** The film as an OpenTimelineIO timeline, and pictures of a shot, or of all, as PDF: of poses, or of every n-th frame. */
export const timelineFile = (production: string): string => `/api/productions/${production}/timeline.otio`;
export const contactSheet = (production: string, shot: string | null, every: number | null): string =>
  `/api/productions/${production}/contact-sheet.pdf?${new URLSearchParams({
    ...(shot ? { shot } : {}),
    ...(every ? { every: String(every) } : {}),
  })}`;
/** A frame as SVG, and a motion or a shot as animated SVG. */
export const frameSvg = (production: string, of: Record<string, string>, frame: number): string =>
  `/api/productions/${production}/frame.svg?${new URLSearchParams({ ...of, frame: String(frame) })}`;
export const animatedSvg = (production: string, of: Record<string, string>): string =>
  `/api/productions/${production}/animated.svg?${new URLSearchParams(of)}`;
export const bringTimeline = (production: string, file: File, fields: Record<string, string>) =>
  ask<Ack>(`/productions/${production}/timeline`, { method: "POST", body: formOf(file, fields) });
/** What another frame rate would do to the keys. */
export const otherRate = (production: string, numerator: number, denominator: number) =>
  ask<MovedView[]>(`/productions/${production}/rate?numerator=${numerator}&denominator=${denominator}`);
/** What the list of productions tells of one, and its picture. */
export const glance = (production: string) => ask<Glance>(`/productions/${production}/glance`);
export const pictureOf = (production: string, looks: string): string =>
  `/api/productions/${production}/picture?v=${looks}`;
export const takeUpRender = (production: string, id: string) =>
  ask<RenderView>(`/productions/${production}/renders/${id}/again`, { method: "POST" });
export const turnRender = (production: string, id: string, before: string | null) =>
  ask<void>(`/productions/${production}/renders/${id}/turn`, json("POST", { before }));

export const renders = (production: string) => ask<RenderView[]>(`/productions/${production}/renders`);
export const orderRender = (production: string, order: RenderOrder) =>
  ask<RenderView>(`/productions/${production}/renders`, json("POST", order));
export const cancelRender = (production: string, id: string) =>
  ask<RenderView>(`/productions/${production}/renders/${id}/cancel`, { method: "POST" });
export const removeRender = (production: string, id: string) =>
  ask<void>(`/productions/${production}/renders/${id}`, { method: "DELETE" });

/** Art, asked for until the service answers. */
export const asset = (id: string): Promise<Response> => patiently(() => answered(`/assets/${id}`));

/** Drawings that are asked for in one question at most. */
export const MANY = 64;
/** Drawings by their ids, not more than `MANY`, asked for until the service answers. */
export const arts = <Art>(ids: readonly string[]): Promise<Record<string, Art>> =>
  patiently(() => ask<Record<string, Art>>(`/arts?ids=${[...ids].sort().join(",")}`));
