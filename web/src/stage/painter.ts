/**
 * The painter: art and plans on a Skia canvas. `sorvan/picture/paint.py` draws the same art by
 * the same steps; a test holds the two together.
 */
import CanvasKitInit, { type Canvas, type CanvasKit, type Image, type Paint, type Path, type SkPicture, type Surface } from "canvaskit-wasm";
import wasm from "canvaskit-wasm/bin/canvaskit.wasm?url";
import { asset } from "../api/http";
import type { Item } from "../api/types";

type Six = [number, number, number, number, number, number];
interface Outline {
  verbs: string;
  points: number[];
}
interface Stop {
  at: number;
  colour: string;
}
type ArtPaint =
  | { kind: "flat"; colour: string }
  | { kind: "linear"; start: [number, number]; end: [number, number]; stops: Stop[]; spread: Spread; matrix: Six }
  | { kind: "radial"; focus: [number, number]; focus_radius: number; centre: [number, number]; radius: number; stops: Stop[]; spread: Spread; matrix: Six };
type Spread = "pad" | "reflect" | "repeat";
interface Stroke {
  paint: ArtPaint;
  width: number;
  cap: "butt" | "round" | "square";
  join: "miter" | "round" | "bevel";
  miter: number;
  dash: number[];
  dash_offset: number;
}
type Node =
  | { kind: "shape"; outline: Outline; rule: string; fill: ArtPaint | null; stroke: Stroke | null }
  | { kind: "picture"; asset: string; box: [number, number, number, number] }
  | { kind: "layer"; matrix: Six; opacity: number; clips: { outline: Outline; rule: string }[]; nodes: Node[] };
interface Art {
  bounds: [number, number, number, number];
  nodes: Node[];
}

let loading: Promise<CanvasKit> | null = null;
export const canvasKit = (): Promise<CanvasKit> => (loading ??= CanvasKitInit({ locateFile: () => wasm }));

let shared: Promise<Painter> | null = null;
/** The page's one painter: art is made ready once for every canvas. */
export const painter = (): Promise<Painter> => (shared ??= canvasKit().then((kit) => new Painter(kit)));

export class Painter {
  private readonly ready = new Map<string, SkPicture>();
  private readonly waiting = new Map<string, Promise<void>>();
  private probe: Surface | null = null;

  constructor(readonly kit: CanvasKit) {}

  /** Fetch and make ready every drawing of these items; resolves when all can be drawn. */
  async prepare(items: readonly Item[]): Promise<void> {
    await Promise.all([...new Set(items.map((i) => i.art))].map((art) => this.load(art)));
  }

  has(items: readonly Item[]): boolean {
    return items.every((i) => this.ready.has(i.art));
  }

  private load(id: string): Promise<void> {
    if (this.ready.has(id)) return Promise.resolve();
    let going = this.waiting.get(id);
    if (!going) {
      going = this.fetch(id).finally(() => this.waiting.delete(id));
      this.waiting.set(id, going);
    }
    return going;
  }

  private async fetch(id: string): Promise<void> {
    const art = (await (await asset(id)).json()) as Art;
    const images = new Map<string, Image>();
    for (const picture of picturesOf(art.nodes)) {
      const image = this.kit.MakeImageFromEncoded(await (await asset(picture)).arrayBuffer());
      if (!image) throw new Error(`picture ${picture} can't be decoded`);
      images.set(picture, image.makeCopyWithDefaultMipmaps());
      image.delete();
    }
    const recorder = new this.kit.PictureRecorder();
    const [left, top, right, bottom] = art.bounds;
    const canvas = recorder.beginRecording(this.kit.LTRBRect(left - 2, top - 2, right + 2, bottom + 2));
    for (const node of art.nodes) this.node(canvas, node, images);
    this.ready.set(id, recorder.finishRecordingAsPicture());
    recorder.delete();
  }

  /** Draw items whose six numbers start at `offset` of `matrices`; the canvas is in stage units. */
  draw(canvas: Canvas, items: readonly Item[], matrices: Float32Array, offset: number, only?: ReadonlySet<string>): void {
    for (let i = 0; i < items.length; i++) {
      const item = items[i]!;
      if (only ? !only.has(item.piece) : item.hidden) continue;
      this.drawItem(canvas, item, matrices, offset + i * 6);
    }
  }

  drawItem(canvas: Canvas, item: Item, matrices: Float32Array, at: number): void {
    const picture = this.ready.get(item.art);
    if (!picture) return;
    canvas.save();
    canvas.concat([matrices[at]!, matrices[at + 2]!, matrices[at + 4]!, matrices[at + 1]!, matrices[at + 3]!, matrices[at + 5]!, 0, 0, 1]);
    canvas.drawPicture(picture);
    canvas.restore();
  }

  /** The items whose pixels show at a stage point, from front to back. */
  at(x: number, y: number, items: readonly Item[], matrices: Float32Array, offset: number, may: (item: Item) => boolean): Item[] {
    const probe = (this.probe ??= this.kit.MakeSurface(1, 1));
    if (!probe) return [];
    const canvas = probe.getCanvas();
    const info = { width: 1, height: 1, colorType: this.kit.ColorType.RGBA_8888, alphaType: this.kit.AlphaType.Unpremul, colorSpace: this.kit.ColorSpace.SRGB };
    const found: Item[] = [];
    for (let i = items.length - 1; i >= 0; i--) {
      const item = items[i]!;
      if (item.hidden || !may(item)) continue;
      canvas.clear(this.kit.TRANSPARENT);
      canvas.save();
      canvas.translate(0.5 - x, 0.5 - y);
      this.drawItem(canvas, item, matrices, offset + i * 6);
      canvas.restore();
      const pixel = canvas.readPixels(0, 0, info);
      // A soft shadow or a glow at the edge is not yet the piece.
      if (pixel && pixel[3]! > 96) found.push(item);
    }
    return found;
  }

  /** Pixels (straight-alpha RGBA) of something painted in memory, for thumbnails. */
  pixels(width: number, height: number, paint: (canvas: Canvas) => void): ImageData | null {
    const surface = this.kit.MakeSurface(width, height);
    if (!surface) return null;
    const canvas = surface.getCanvas();
    canvas.clear(this.kit.TRANSPARENT);
    paint(canvas);
    const info = { width, height, colorType: this.kit.ColorType.RGBA_8888, alphaType: this.kit.AlphaType.Unpremul, colorSpace: this.kit.ColorSpace.SRGB };
    const read = canvas.readPixels(0, 0, info) as Uint8Array | null;
    const data = read ? new ImageData(new Uint8ClampedArray(read), width, height) : null;
    surface.delete();
    return data;
  }

  colour(text: string): Float32Array {
    const part = (i: number) => parseInt(text.slice(i, i + 2), 16);
    return this.kit.Color4f(part(1) / 255, part(3) / 255, part(5) / 255, part(7) / 255);
  }

  private path(outline: Outline, rule: string): Path {
    const { kit } = this;
    const verbs = { M: [kit.MOVE_VERB, 2], L: [kit.LINE_VERB, 2], Q: [kit.QUAD_VERB, 4], C: [kit.CUBIC_VERB, 6], Z: [kit.CLOSE_VERB, 0] } as const;
    const commands: number[] = [];
    let at = 0;
    for (const letter of outline.verbs) {
      const [verb, takes] = verbs[letter as keyof typeof verbs];
      commands.push(verb);
      for (let i = 0; i < takes; i++) commands.push(outline.points[at++]!);
    }
    const path = kit.Path.MakeFromCmds(commands);
    if (!path) throw new Error("an outline can't be drawn");
    if (rule !== "evenodd") return path;
    const builder = new kit.PathBuilder(path);
    builder.setFillType(kit.FillType.EvenOdd);
    const even = builder.detachAndDelete();
    path.delete();
    return even;
  }

  private brush(paint: ArtPaint): Paint {
    const { kit } = this;
    const made = new kit.Paint();
    made.setAntiAlias(true);
    if (paint.kind === "flat") {
      made.setColor(this.colour(paint.colour));
      return made;
    }
    const colours = paint.stops.map((s) => this.colour(s.colour));
    if (colours.length === 1) {
      made.setColor(colours[0]!);
      return made;
    }
    const places = paint.stops.map((s) => s.at);
    const tile = { pad: kit.TileMode.Clamp, reflect: kit.TileMode.Mirror, repeat: kit.TileMode.Repeat }[paint.spread];
    const local = nine(paint.matrix);
    made.setShader(
      paint.kind === "linear"
        ? kit.Shader.MakeLinearGradient(paint.start, paint.end, colours, places, tile, local)
        : kit.Shader.MakeTwoPointConicalGradient(paint.focus, paint.focus_radius, paint.centre, paint.radius, colours, places, tile, local),
    );
    return made;
  }

  private node(canvas: Canvas, node: Node, images: ReadonlyMap<string, Image>): void {
    const { kit } = this;
    if (node.kind === "shape") {
      const path = this.path(node.outline, node.rule);
      if (node.fill) {
        const fill = this.brush(node.fill);
        canvas.drawPath(path, fill);
        fill.delete();
      }
      if (node.stroke) {
        const pen = this.pen(node.stroke);
        canvas.drawPath(path, pen);
        pen.delete();
      }
      path.delete();
    } else if (node.kind === "picture") {
      const image = images.get(node.asset)!;
      const [x, y, w, h] = node.box;
      canvas.drawImageRectOptions(image, kit.XYWHRect(0, 0, image.width(), image.height()), kit.XYWHRect(x, y, w, h), kit.FilterMode.Linear, kit.MipmapMode.Linear);
    } else {
      canvas.save();
      canvas.concat(nine(node.matrix));
      for (const clip of node.clips) {
        const path = this.path(clip.outline, clip.rule);
        canvas.clipPath(path, kit.ClipOp.Intersect, true);
        path.delete();
      }
      if (node.opacity < 1) {
        const faded = new kit.Paint();
        faded.setAlphaf(node.opacity);
        canvas.saveLayer(faded);
        faded.delete();
      }
      for (const child of node.nodes) this.node(canvas, child, images);
      if (node.opacity < 1) canvas.restore();
      canvas.restore();
    }
  }

  private pen(stroke: Stroke): Paint {
    const { kit } = this;
    const pen = this.brush(stroke.paint);
    pen.setStyle(kit.PaintStyle.Stroke);
    pen.setStrokeWidth(stroke.width);
    pen.setStrokeCap({ butt: kit.StrokeCap.Butt, round: kit.StrokeCap.Round, square: kit.StrokeCap.Square }[stroke.cap]);
    pen.setStrokeJoin({ miter: kit.StrokeJoin.Miter, round: kit.StrokeJoin.Round, bevel: kit.StrokeJoin.Bevel }[stroke.join]);
    pen.setStrokeMiter(stroke.miter);
    if (stroke.dash.length) pen.setPathEffect(kit.PathEffect.MakeDash(stroke.dash, stroke.dash_offset));
    return pen;
  }
}

const nine = (m: Six): number[] => [m[0], m[2], m[4], m[1], m[3], m[5], 0, 0, 1];

function* picturesOf(nodes: Node[]): Generator<string> {
  for (const node of nodes) {
    if (node.kind === "picture") yield node.asset;
    else if (node.kind === "layer") yield* picturesOf(node.nodes);
  }
}
