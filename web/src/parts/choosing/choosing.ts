/** Which parts of a drawing become pieces, as it is being chosen. Parts go by the paths that lead to them. */
import type { DrawingPart } from "../../wire/types";

export interface Chosen {
  name: string;
  parts: string[];
}

/** Whether a part lies in another, or is it. */
export const isIn = (path: string, other: string): boolean => path === other || path.startsWith(`${other}/`);

const inOrder = (a: string, b: string): number => {
  const [x, y] = [a, b].map((path) => path.split("/").map((step) => parseInt(step, 10))) as [number[], number[]];
  for (let i = 0; i < Math.min(x.length, y.length); i++) if (x[i] !== y[i]) return x[i]! - y[i]!;
  return x.length - y.length;
};

/** What a part is called. */
export const labelOf = (part: DrawingPart): string =>
  part.name ||
  (part.kind === "group"
    ? `group of ${part.shapes}`
    : part.kind === "rest"
      ? `${part.shapes.toLocaleString("en")} more shapes`
      : part.kind);

/** Pieces without these parts, and without all that is in them or around them. */
const without = (chosen: readonly Chosen[], paths: readonly string[]): Chosen[] =>
  chosen
    .map((c) => ({ ...c, parts: c.parts.filter((p) => !paths.some((q) => isIn(p, q) || isIn(q, p))) }))
    .filter((c) => c.parts.length);

const sorted = (chosen: Chosen[]): Chosen[] =>
  chosen.map((c) => ({ ...c, parts: [...c.parts].sort(inOrder) })).sort((a, b) => inOrder(a.parts[0]!, b.parts[0]!));

/** Parts without those that lie in others of them. */
const outermost = (paths: readonly string[]): string[] =>
  paths.filter((p) => !paths.some((q) => q !== p && isIn(p, q)));

/** One piece of some parts, whatever they belonged to. */
export function join(chosen: readonly Chosen[], parts: readonly DrawingPart[]): Chosen[] {
  const paths = outermost(parts.map((p) => p.path));
  const named = parts.find((p) => p.name) ?? parts[0];
  if (!named) return [...chosen];
  return sorted([...without(chosen, paths), { name: labelOf(named), parts: paths }]);
}

/** A group opened: each of its parts a piece of its own. */
export function open(chosen: readonly Chosen[], part: DrawingPart): Chosen[] {
  if (!part.parts.length) return [...chosen];
  const name = (p: DrawingPart, i: number) => (p.kind === "rest" ? "the rest" : p.name || `${p.kind} ${i + 1}`);
  const own = part.parts.map((p, i) => ({ name: name(p, i), parts: [p.path] }));
  return sorted([...without(chosen, [part.path]), ...own]);
}

/** Some parts left out of all pieces. */
export const leaveOut = (chosen: readonly Chosen[], parts: readonly DrawingPart[]): Chosen[] =>
  without(
    chosen,
    parts.map((p) => p.path),
  );

/** What becomes of a part: the piece that it is or belongs to, or that parts of it do; nothing, where it is left out. */
export function fateOf(chosen: readonly Chosen[], path: string): { piece?: Chosen; own: boolean; opened: boolean } {
  const piece = chosen.find((c) => c.parts.some((p) => isIn(path, p)));
  const opened = !piece && chosen.some((c) => c.parts.some((p) => isIn(p, path)));
  return { ...(piece ? { piece } : {}), own: !!piece?.parts.includes(path), opened };
}
