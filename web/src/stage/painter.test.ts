import CanvasKitInit from "canvaskit-wasm";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { MOST, Painter } from "./painter";

vi.mock("canvaskit-wasm/bin/canvaskit.wasm?url", () => ({ default: "" }));

const kit = await CanvasKitInit({ locateFile: () => "node_modules/canvaskit-wasm/bin/canvaskit.wasm" });

/** A picture of one colour as the service would send it. */
function png(side: number): Uint8Array {
  const surface = kit.MakeSurface(side, side)!;
  surface.getCanvas().clear(kit.Color(200, 30, 30, 1));
  const image = surface.makeImageSnapshot();
  const bytes = image.encodeToBytes()!;
  image.delete();
  surface.delete();
  return bytes;
}

const outline = { verbs: "MLLZ", points: [0, 0, 9, 0, 9, 9] };
const stroke = {
  paint: { kind: "flat", colour: "#000000ff" },
  width: 1,
  cap: "butt",
  join: "miter",
  miter: 4,
  dash: [2, 1],
  dash_offset: 0,
};
const shape = { kind: "shape", outline, rule: "nonzero", fill: { kind: "flat", colour: "#ff0000ff" }, stroke };
const before = { ...MOST };
let asked: string[] = [];
let answers = 0;

beforeEach(() => {
  asked = [];
  answers = 0;
  const picture = png(64);
  vi.stubGlobal(
    "ImageData",
    class {
      constructor(readonly data: Uint8ClampedArray) {}
    },
  );
  vi.stubGlobal("fetch", (path: string) => {
    const ids = path.split(/[/=]/).at(-1)!.split(",");
    asked.push(...ids);
    if (ids[0]!.startsWith("picture")) return Promise.resolve(new Response(picture as BodyInit));
    answers += 1;
    const own = (id: string) => ({ kind: "picture", asset: `picture-${id}`, box: [0, 0, 9, 9] });
    const arts = Object.fromEntries(ids.map((id) => [id, { bounds: [0, 0, 9, 9], nodes: [shape, own(id)] }]));
    return Promise.resolve(new Response(JSON.stringify(arts)));
  });
});
afterEach(() => {
  Object.assign(MOST, before);
  vi.unstubAllGlobals();
});

const item = (art: string) =>
  ({
    rest: 0,
    puppet: "a",
    piece: art,
    arts: [art],
    boxes: [[0, 0, 9, 9]],
    hidden: false,
    opacity: 1,
    masks: [],
  }) as never;
const frameOf = (arts: string[]) => ({
  items: arts.map(item),
  matrices: new Float32Array(arts.flatMap(() => [1, 0, 0, 1, 0, 0])),
  shown: null,
  order: null,
  opacity: null,
  points: [],
  at: 0,
});

function drawnReds(painter: Painter, arts: string[]): number {
  const data = painter.pixels(12, 12, (canvas) => painter.draw(canvas, frameOf(arts)))!;
  return data.data.filter((v, i) => i % 4 === 0 && v > 150).length;
}

it("lets go of what was used longest ago, keeps what is held, and has it again when it is asked for", async () => {
  Object.assign(MOST, { arts: 6, pixels: 1e9 });
  const painter = new Painter(kit);
  const [stage, names] = [{}, Array.from({ length: 20 }, (_, i) => `art${i}`)];
  painter.hold(stage, new Set(["art0", "art1"]));
  for (const name of names) {
    await painter.prepare([{ arts: [name] }]);
    expect(drawnReds(painter, [name])).toBeGreaterThan(40);
  }
  expect(painter.weight.arts).toBeLessThanOrEqual(6);
  expect(painter.has([{ arts: ["art0", "art1", "art19"] }])).toBe(true);
  expect(painter.has([{ arts: ["art5"] }])).toBe(false);
  await painter.prepare([{ arts: ["art5"] }]);
  expect(drawnReds(painter, ["art5"])).toBeGreaterThan(40);
  expect(asked.filter((id) => id === "art5")).toHaveLength(2);
  painter.hold(stage, null);
  for (const name of names.slice(10)) await painter.prepare([{ arts: [name] }]);
  expect(painter.has([{ arts: ["art0"] }])).toBe(false);
});

it("asks for all drawings that are wanted at once in as few answers as can be", async () => {
  const painter = new Painter(kit);
  const names = Array.from({ length: 150 }, (_, n) => `art${n}`);
  await Promise.all([painter.prepare(names.map((art) => ({ arts: [art] }))), painter.prepare([{ arts: ["late"] }])]);
  expect(answers).toBe(3);
  expect(painter.has(names.map((art) => ({ arts: [art] })))).toBe(true);
  await painter.prepare([{ arts: ["art0", "late"] }]);
  expect(answers).toBe(3);
});

it("makes a picture smaller by what is seen of it, so that clear pixels darken no edge", async () => {
  const info = {
    width: 64,
    height: 64,
    colorType: kit.ColorType.RGBA_8888,
    alphaType: kit.AlphaType.Unpremul,
    colorSpace: kit.ColorSpace.SRGB,
  };
  // Every other pixel is light, those between are clear and, where nobody sees it, black.
  const pixels = new Uint8Array(64 * 64 * 4).map((_, i) => ((i >> 2) % 2 ? 0 : [200, 180, 160, 255][i % 4]!));
  const light = kit.MakeImage(info, pixels, 64 * 4)!.encodeToBytes()!;
  const plain = fetch;
  vi.stubGlobal("fetch", (path: string) =>
    path.includes("picture") ? Promise.resolve(new Response(light as BodyInit)) : plain(path),
  );
  const painter = new Painter(kit);
  await painter.prepare([{ arts: ["grid"] }]);
  const data = painter.pixels(12, 12, (canvas) => {
    canvas.clear(kit.WHITE);
    painter.draw(canvas, frameOf(["grid"]));
  })!;
  // Left of the shape of the test's art: half of it over white.
  const at = (8 * 12 + 1) * 4;
  for (const [i, colour] of [200, 180, 160].entries())
    expect(Math.abs(data.data[at + i]! - (colour + 255) / 2)).toBeLessThan(6);
});

it("fetches and decodes a picture once that two drawings share", async () => {
  const painter = new Painter(kit);
  const shared = { kind: "picture", asset: "picture-shared", box: [0, 0, 9, 9] };
  const plain = fetch;
  vi.stubGlobal("fetch", (path: string) =>
    path.includes("picture")
      ? plain(path)
      : Promise.resolve(
          new Response(
            JSON.stringify({
              one: { bounds: [0, 0, 9, 9], nodes: [shared] },
              other: { bounds: [0, 0, 9, 9], nodes: [shared] },
            }),
          ),
        ),
  );
  await painter.prepare([{ arts: ["one", "other"] }]);
  expect(asked).toEqual(["picture-shared"]);
  expect(painter.weight.pixels).toBe(64 * 64);
});

it("counts pictures by their pixels, and keeps only the last of a sequence laid under the work", async () => {
  Object.assign(MOST, { arts: 1000, pixels: 64 * 64 * 3, loose: 4 });
  const painter = new Painter(kit);
  for (let i = 0; i < 12; i++) await painter.prepare([{ arts: [`art${i}`] }]);
  expect(painter.weight.pixels).toBeLessThanOrEqual(64 * 64 * 4);
  for (let i = 0; i < 50; i++) await painter.picture(`picture${i}`);
  expect(painter.pictureNow("picture49")).toBeDefined();
  expect(painter.pictureNow("picture10")).toBeUndefined();
  expect(painter.weight.pixels).toBeLessThanOrEqual(64 * 64 * 8);
});
