/** Requests to the service. Every failure is a `Problem`. */
import type { Ack, Command, Listed, Problem, RenderOrder, RenderView, Report } from "./types";

export class ServiceError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
  /** Whether trying again later may help. */
  get passing(): boolean {
    return this.problem.status === 0 || this.problem.status >= 502;
  }
}

async function ask<T>(path: string, init?: RequestInit): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, init);
  } catch {
    throw new ServiceError({ status: 0, title: "No answer", detail: "Sorvan does not answer.", remedy: "Is it still running?" });
  }
  if (!answer.ok) {
    const fallback: Problem = { status: answer.status, title: answer.statusText, detail: `The service failed (${answer.status}).` };
    throw new ServiceError(await answer.json().catch(() => fallback));
  }
  return answer.status === 204 ? (undefined as T) : ((await answer.json()) as T);
}

const json = (method: string, body: unknown): RequestInit => ({
  method,
  headers: { "Content-Type": "application/json" },
  body: JSON.stringify(body),
});

export const productions = () => ask<Listed[]>("/productions");
export const createProduction = (name: string) => ask<Listed>("/productions", json("POST", { name }));
export const removeProduction = (id: string) => ask<void>(`/productions/${id}`, { method: "DELETE" });

export function loadArchive(file: File): Promise<Listed> {
  const form = new FormData();
  form.append("file", file);
  return ask<Listed>("/productions/archive", { method: "POST", body: form });
}

export interface Sent {
  id: string;
  window: string;
  base: number;
  command: Command;
}

export const sendChange = (production: string, sent: Sent) => ask<Ack>(`/productions/${production}/changes`, json("POST", sent));
export const sendTurn = (production: string, way: "undo" | "redo", turn: { id: string; window: string; target: number }) =>
  ask<Ack>(`/productions/${production}/${way}`, json("POST", turn));

const places = new WeakMap<File, string>();
/** Remember where in a folder a dropped file lay. */
export const setPlace = (file: File, place: string): void => void places.set(file, place);
const placeOf = (file: File): string => places.get(file) || file.webkitRelativePath || file.name;

export function importArt(production: string, files: File[], fields: Record<string, string>): Promise<Report> {
  const form = new FormData();
  for (const file of files) {
    form.append("files", file);
    form.append("paths", placeOf(file));
  }
  for (const [key, value] of Object.entries(fields)) form.append(key, value);
  return ask<Report>(`/productions/${production}/art`, { method: "POST", body: form });
}

export const renders = (production: string) => ask<RenderView[]>(`/productions/${production}/renders`);
export const orderRender = (production: string, order: RenderOrder) =>
  ask<RenderView>(`/productions/${production}/renders`, json("POST", order));
export const cancelRender = (production: string, id: string) =>
  ask<RenderView>(`/productions/${production}/renders/${id}/cancel`, { method: "POST" });
export const removeRender = (production: string, id: string) =>
  ask<void>(`/productions/${production}/renders/${id}`, { method: "DELETE" });

export async function asset(id: string): Promise<Response> {
  let answer = await fetch(`/api/assets/${id}`);
  // Art is asked for again while the database is away.
  for (let wait = 300; answer.status === 503; wait = Math.min(wait * 1.6, 3000)) {
    await new Promise((done) => setTimeout(done, wait));
    answer = await fetch(`/api/assets/${id}`);
  }
  if (!answer.ok) throw new Error(`asset ${id}: ${answer.status}`);
  return answer;
}
