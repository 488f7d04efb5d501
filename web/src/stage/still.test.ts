import CanvasKitInit, { type Surface } from "canvaskit-wasm";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { Item } from "../wire/types";
import { Painter } from "./painter";
import type { Frame } from "../session/frames";
import { Still, stillIn } from "./still";

vi.mock("canvaskit-wasm/bin/canvaskit.wasm?url", () => ({ default: "" }));

const kit = await CanvasKitInit({ locateFile: () => "node_modules/canvaskit-wasm/bin/canvaskit.wasm" });
const SIDE = 60;
const outline = { verbs: "MLLLZ", points: [0, 0, 20, 0, 20, 20, 0, 20] };
const art = (colour: string) => ({
  bounds: [0, 0, 20, 20],
  nodes: [{ kind: "shape", outline, rule: "nonzero", fill: { kind: "flat", colour }, stroke: null }],
});
const COLOURS = ["#ff000080", "#00ff00ff", "#0000ffff", "#ffff00a0"];

let surfaces: Surface[] = [];
beforeEach(() => {
  vi.stubGlobal("fetch", (path: string) => {
    const ids = path.split("=").at(-1)!.split(",");
    return Promise.resolve(
      new Response(JSON.stringify(Object.fromEntries(ids.map((id) => [id, art(COLOURS[Number(id)]!)])))),
    );
  });
});
afterEach(() => {
  for (const surface of surfaces) surface.delete();
  surfaces = [];
  vi.unstubAllGlobals();
});

const COUNT = 10;
const items = Array.from({ length: COUNT }, (_, n) => ({
  piece: `p${n}`,
  arts: [String(n % 4), String((n + 1) % 4)],
  boxes: [[0, 0, 20, 20]],
  rest: 0,
  masks: n === 9 ? [[2, true]] : [],
  opacity: 1,
  hidden: n === 3,
})) as unknown as Item[];

/** All items in a slanting row, some of them elsewhere. */
function frameWith(moved: Record<number, number>, more: Partial<Frame> = {}): Frame {
  const matrices = new Float32Array(items.flatMap((_, n) => [1, 0, 0, 1, 3 * n + (moved[n] ?? 0), 4 * n]));
  return { items, matrices, shown: null, order: null, opacity: null, points: [], at: 0, ...more };
}

const surface = (): Surface => {
  surfaces.push(kit.MakeSurface(SIDE, SIDE)!);
  return surfaces.at(-1)!;
};
const pixels = (of: Surface) =>
  of.getCanvas().readPixels(0, 0, {
    width: SIDE,
    height: SIDE,
    colorType: kit.ColorType.RGBA_8888,
    alphaType: kit.AlphaType.Unpremul,
    colorSpace: kit.ColorSpace.SRGB,
  });

it("counts what stays from the back up to the first that moves, shows another drawing, fades, bends or is masked", () => {
  const rest = frameWith({});
  expect(stillIn(rest, frameWith({}))).toBe(9);
  expect(stillIn(rest, frameWith({ 7: 1, 8: 1 }))).toBe(7);
  expect(stillIn(rest, frameWith({}, { shown: new Int16Array([0, 0, 0, 0, 1, 0, 0, 0, 0, 0]) }))).toBe(4);
  expect(stillIn(rest, frameWith({}, { opacity: new Float32Array([1, 1, 0.5, 1, 1, 1, 1, 1, 1, 1]) }))).toBe(2);
  expect(stillIn(rest, frameWith({}, { order: new Int16Array([0, 2, 1, 3, 4, 5, 6, 7, 8, 9]) }))).toBe(1);
  const bent = { item: 5, drawing: 0, count: 4, data: new Float32Array(8), frames: null, looks: null };
  expect(stillIn(rest, frameWith({}, { points: [bent] }))).toBe(5);
  expect(stillIn(frameWith({}, { points: [bent] }), rest)).toBe(5);
  expect(stillIn(rest, { ...frameWith({}), items: [...items] })).toBe(0);
});

it("leaves the picture as it would be if all were painted, and paints less", async () => {
  const painter = new Painter(kit);
  await painter.prepare(items);
  const [kept, whole] = [surface(), surface()];
  const still = new Still();
  let ground = {};
  const steps: Record<number, number>[] = [
    {},
    { 7: 2 },
    { 7: 4 },
    { 7: 4, 1: 6 },
    { 7: 5, 1: 9 },
    { 7: 6, 1: 9 },
    { 7: 8, 1: 9 },
    { 8: 3 },
    {},
  ];
  const painted: number[] = [];
  steps.forEach((moved, step) => {
    const frame = frameWith(moved);
    if (step === 7) ground = {};
    let count = 0;
    const some = (from: number, to = COUNT) => {
      count += to - from;
      painter.draw(kept.getCanvas(), frame, undefined, from, to);
    };
    kept.getCanvas().clear(kit.Color4f(step === 7 ? 0.5 : 0.9, 0.9, 0.8, 1));
    whole.getCanvas().clear(kit.Color4f(step === 7 ? 0.5 : 0.9, 0.9, 0.8, 1));
    some(still.draw(kept, kept.getCanvas(), ground, frame, some));
    painter.draw(whole.getCanvas(), frame);
    expect(pixels(kept)).toEqual(pixels(whole));
    painted.push(count);
  });
  expect(painted).toEqual([10, 10, 3, 10, 10, 10, 3, 10, 10]);
  still.clear();
});
