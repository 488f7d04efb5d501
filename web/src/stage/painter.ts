/**
 * The painter: art and plans on a Skia canvas. `sorvan/picture/paint.py` draws the same art by
 * the same steps; a test holds the two together.
 */
import CanvasKitInit, {
  type Canvas,
  type CanvasKit,
  type Image,
  type Paint,
  type Path,
  type SkPicture,
  type Surface,
} from "canvaskit-wasm";
import wasm from "canvaskit-wasm/bin/canvaskit.wasm?url";
import { arts, asset, MANY } from "../wire/http";
import type { Item } from "../wire/types";
import {
  TAKES,
  blendOf,
  covers,
  picturesOf,
  type Art,
  type Changed,
  type MeshNode,
  type Node,
  type ShapeNode,
  type Six,
} from "./art";
import { Brushes, nine } from "./brushes";
import type { Frame } from "../session/frames";
import { changedIn, changing } from "./bent";

/** The item that is the n-th from the back. */
export const nthOf = (f: Frame, n: number): number => f.order?.[f.at * f.items.length + n] ?? n;

/** How opaque an item is. */
export const opacityOf = (f: Frame, i: number): number =>
  f.items[i]!.opacity * (f.opacity?.[f.at * f.items.length + i] ?? 1);

export const drawingOf = (f: Frame, i: number): number => f.shown?.[f.at * f.items.length + i] ?? f.items[i]!.rest;

/**
 * What may be ready at once, besides what is held: drawings, pixels of their pictures, and pictures
 * that lie under the work.
 */
export const MOST = { arts: 1500, pixels: 48_000_000, loose: 24 };

let loading: Promise<CanvasKit> | null = null;
export const canvasKit = (): Promise<CanvasKit> => (loading ??= CanvasKitInit({ locateFile: () => wasm }));

let shared: Promise<Painter> | null = null;
/** The page's one painter: art is made ready once for every canvas. */
export const painter = (): Promise<Painter> => (shared ??= canvasKit().then((kit) => new Painter(kit)));

export class Painter {
  private readonly ready = new Map<string, SkPicture>();
  private readonly arts = new Map<string, Art>();
  private breath: { ids: string[]; answer: Promise<Record<string, Art>> } | null = null;
  /** Pictures on their way: two drawings may share one. */
  private readonly coming = new Map<string, Promise<Image>>();
  private readonly images = new Map<string, Image>();
  private readonly brushes: Brushes;
  private readonly waiting = new Map<string, Promise<void>>();
  private probe: Surface | null = null;
  private readonly used = new Map<string, number>();
  private readonly holders = new Map<object, ReadonlySet<string>>();
  private clock = 0;
  private loose: string[] = [];

  constructor(readonly kit: CanvasKit) {
    this.brushes = new Brushes(kit);
  }

  colour(text: string): Float32Array {
    return this.brushes.colour(text);
  }

  /** Fetch and make ready every drawing of these items; resolves when all can be drawn. */
  async prepare(items: readonly { arts: readonly string[] }[]): Promise<void> {
    await Promise.all([...new Set(items.flatMap((i) => i.arts))].map((art) => this.load(art)));
  }

  has(items: readonly { arts: readonly string[] }[]): boolean {
    return items.every((i) => i.arts.every((art) => this.arts.has(art)));
  }

  private load(id: string): Promise<void> {
    if (this.arts.has(id)) return Promise.resolve();
    let going = this.waiting.get(id);
    if (!going) {
      going = this.fetch(id).finally(() => this.waiting.delete(id));
      this.waiting.set(id, going);
    }
    return going;
  }

  private async fetch(id: string): Promise<void> {
    const art = await this.art(id);
    await Promise.all([...picturesOf(art.nodes)].map((picture) => this.image(picture)));
    this.arts.set(id, art);
    this.used.set(id, ++this.clock);
    this.trim();
  }

  /** A drawing; those that are asked for in one breath come in one answer. */
  private async art(id: string): Promise<Art> {
    let breath = this.breath;
    if (!breath || breath.ids.length >= MANY) {
      const ids: string[] = [];
      const end = () => {
        if (this.breath?.ids === ids) this.breath = null;
        return arts<Art>(ids);
      };
      breath = this.breath = { ids, answer: Promise.resolve().then(end) };
    }
    breath.ids.push(id);
    const art = (await breath.answer)[id];
    if (!art) throw new Error(`the drawing ${id} is not there`);
    return art;
  }

  /** What this owner draws again and again stays ready, until it holds other things, or none. */
  hold(owner: object, arts: ReadonlySet<string> | null): void {
    if (arts) this.holders.set(owner, arts);
    else this.holders.delete(owner);
    this.trim();
  }

  /** How many drawings are ready, and how many pixels their pictures have. */
  get weight(): { arts: number; pixels: number } {
    let pixels = 0;
    for (const image of this.images.values()) pixels += image.width() * image.height();
    return { arts: this.arts.size, pixels };
  }

  /** Let go of the drawings used longest ago, while there are too many that nobody holds. */
  private trim(): void {
    if (this.arts.size <= MOST.arts && this.weight.pixels <= MOST.pixels) return;
    const held = new Set([...this.holders.values()].flatMap((arts) => [...arts]));
    const idle = [...this.arts.keys()].filter((id) => !held.has(id));
    idle.sort((a, b) => (this.used.get(a) ?? 0) - (this.used.get(b) ?? 0));
    // The newest has just been asked for.
    for (const id of idle.slice(0, -1)) {
      if (this.arts.size <= MOST.arts && this.weight.pixels <= MOST.pixels) return;
      this.forget(id);
    }
  }

  private forget(id: string): void {
    const art = this.arts.get(id);
    if (!art) return;
    this.ready.get(id)?.delete();
    this.ready.delete(id);
    this.arts.delete(id);
    this.used.delete(id);
    this.brushes.close(art.nodes);
    const wanted = new Set([...this.arts.values()].flatMap((a) => [...picturesOf(a.nodes)]));
    for (const picture of picturesOf(art.nodes)) {
      if (wanted.has(picture)) continue;
      this.images.get(picture)?.delete();
      this.images.delete(picture);
    }
  }

  /** A picture that lies under the work, by its asset. Only the last few of a sequence are kept. */
  async picture(id: string): Promise<Image> {
    const image = await this.image(id);
    this.loose = [...this.loose.filter((l) => l !== id), id];
    const wanted = new Set([...this.arts.values()].flatMap((a) => [...picturesOf(a.nodes)]));
    for (const old of this.loose.splice(0, this.loose.length - MOST.loose)) {
      if (wanted.has(old)) continue;
      this.images.get(old)?.delete();
      this.images.delete(old);
    }
    return image;
  }

  /** A picture by its asset, made ready once. */
  private async image(id: string): Promise<Image> {
    const known = this.images.get(id);
    if (known) return known;
    const coming = this.coming.get(id) ?? this.decoded(id).finally(() => this.coming.delete(id));
    this.coming.set(id, coming);
    return coming;
  }

  private async decoded(id: string): Promise<Image> {
    const image = this.kit.MakeImageFromEncoded(await (await asset(id)).arrayBuffer());
    if (!image) throw new Error(`picture ${id} can't be decoded`);
    const made = this.redrawn(image, 0);
    image.delete();
    this.images.set(id, made);
    return made;
  }

  pictureNow(id: string): Image | undefined {
    return this.images.get(id);
  }

  private recorded(id: string): SkPicture | null {
    const known = this.ready.get(id);
    if (known) return known;
    const art = this.arts.get(id);
    if (!art) return null;
    const recorder = new this.kit.PictureRecorder();
    const [left, top, right, bottom] = art.bounds;
    const canvas = recorder.beginRecording(this.kit.LTRBRect(left - 2, top - 2, right + 2, bottom + 2));
    for (const node of art.nodes) this.node(canvas, node, null);
    const picture = recorder.finishRecordingAsPicture();
    recorder.delete();
    this.ready.set(id, picture);
    return picture;
  }

  /** Draw a frame, back to front; the canvas is in stage units. Of all its items, or of those from one to another. */
  draw(canvas: Canvas, frame: Frame, only?: ReadonlySet<string>, from = 0, to = frame.items.length): void {
    for (let n = from; n < to; n++) {
      const i = nthOf(frame, n);
      const item = frame.items[i]!;
      const opacity = opacityOf(frame, i);
      if (only ? !only.has(item.piece) : item.hidden || opacity <= 0) continue;
      this.item(canvas, frame, i, opacity);
    }
  }

  /** Draw one item, faded and masked. */
  item(canvas: Canvas, frame: Frame, i: number, opacity = 1): void {
    const masks = frame.items[i]!.masks;
    if (opacity === 1 && !masks.length) {
      this.bare(canvas, frame, i);
      return;
    }
    const { kit } = this;
    const around = this.around(frame, i);
    const paint = new kit.Paint();
    paint.setAlphaf(opacity);
    // What is set apart to be faded blends with what is under it as its drawing does.
    paint.setBlendMode(this.brushes.mode(blendOf(this.arts.get(frame.items[i]!.arts[drawingOf(frame, i)] ?? ""))));
    canvas.saveLayer(paint, around);
    this.bare(canvas, frame, i);
    paint.setAlphaf(1);
    for (const [mask, inside] of masks) {
      paint.setBlendMode(inside ? kit.BlendMode.DstIn : kit.BlendMode.DstOut);
      canvas.saveLayer(paint, around);
      this.item(canvas, frame, mask);
      canvas.restore();
    }
    canvas.restore();
    paint.delete();
  }

  private bare(canvas: Canvas, frame: Frame, i: number): void {
    const drawing = drawingOf(frame, i);
    const id = frame.items[i]!.arts[drawing];
    if (!id) return;
    this.used.set(id, ++this.clock);
    const m = frame.matrices;
    const at = (frame.at * frame.items.length + i) * 6;
    canvas.save();
    canvas.concat([m[at]!, m[at + 2]!, m[at + 4]!, m[at + 1]!, m[at + 3]!, m[at + 5]!, 0, 0, 1]);
    const moved = changing(frame.points, i, drawing, frame.at);
    if (moved) {
      for (const node of this.arts.get(id)?.nodes ?? []) this.node(canvas, node, moved);
    } else {
      const picture = this.recorded(id);
      if (picture) canvas.drawPicture(picture);
    }
    canvas.restore();
  }

  /** The outlines of a drawing as SVG path data, in drawing units; empty until it is here. */
  outlineOf(id: string): string {
    const out: string[] = [];
    const walk = (nodes: Node[]): void => {
      for (const node of nodes) {
        if (node.kind === "layer") walk(node.nodes);
        if (node.kind !== "shape") continue;
        let at = 0;
        for (const verb of node.outline.verbs) {
          const takes = TAKES[verb] ?? 0;
          out.push(verb + node.outline.points.slice(at, at + takes).join(" "));
          at += takes;
        }
      }
    };
    walk(this.arts.get(id)?.nodes ?? []);
    return out.join("");
  }

  /** The colour of a stage pixel as `#rrggbb`, the picture under the work included; null where nothing is. */
  colourAt(x: number, y: number, paint: (canvas: Canvas) => void): string | null {
    const data = this.pixels(1, 1, (c) => {
      c.translate(0.5 - x, 0.5 - y);
      paint(c);
    });
    if (!data || data.data[3]! < 128) return null;
    return `#${[0, 1, 2].map((i) => data.data[i]!.toString(16).padStart(2, "0")).join("")}`;
  }

  /** A drawing by itself, under six numbers. */
  drawing(canvas: Canvas, id: string, m: readonly number[]): void {
    const picture = this.recorded(id);
    if (!picture) return;
    canvas.save();
    canvas.concat([m[0]!, m[2]!, m[4]!, m[1]!, m[3]!, m[5]!, 0, 0, 1]);
    canvas.drawPicture(picture);
    canvas.restore();
  }

  /** A drawing by itself with other points and looks, under six numbers. */
  changed(canvas: Canvas, id: string, m: readonly number[], changed: Changed): void {
    canvas.save();
    canvas.concat(nine(m as Six));
    for (const node of this.arts.get(id)?.nodes ?? []) this.node(canvas, node, changed);
    canvas.restore();
  }

  /** A box on the stage that holds all of an item. */
  private around(frame: Frame, i: number): Float32Array {
    const drawing = drawingOf(frame, i);
    let [l, t, r, b] = frame.items[i]!.boxes[drawing]!;
    const points = changedIn(frame.points, i, drawing, frame.at)?.[0];
    if (points?.length) {
      const air = 0.25 * Math.max(r - l, b - t);
      [l, t, r, b] = [Infinity, Infinity, -Infinity, -Infinity];
      for (let k = 0; k < points.length; k += 2) {
        [l, r] = [Math.min(l, points[k]!), Math.max(r, points[k]!)];
        [t, b] = [Math.min(t, points[k + 1]!), Math.max(b, points[k + 1]!)];
      }
      [l, t, r, b] = [l - air, t - air, r + air, b + air];
    }
    const at = (frame.at * frame.items.length + i) * 6;
    const m = frame.matrices.subarray(at, at + 6);
    const xs = [l, r].flatMap((x) => [t, b].map((y) => m[0]! * x + m[2]! * y + m[4]!));
    const ys = [l, r].flatMap((x) => [t, b].map((y) => m[1]! * x + m[3]! * y + m[5]!));
    return this.kit.LTRBRect(Math.min(...xs) - 3, Math.min(...ys) - 3, Math.max(...xs) + 3, Math.max(...ys) + 3);
  }

  /** A box that holds all items: a layer no larger than it costs no more than what is on it. */
  allAround(frame: Frame): Float32Array {
    const found = new Float32Array([Infinity, Infinity, -Infinity, -Infinity]);
    for (let i = 0; i < frame.items.length; i++) {
      if (frame.items[i]!.hidden || !frame.items[i]!.boxes[drawingOf(frame, i)]) continue;
      const [l, t, r, b] = this.around(frame, i);
      found.set([Math.min(found[0]!, l!), Math.min(found[1]!, t!), Math.max(found[2]!, r!), Math.max(found[3]!, b!)]);
    }
    return found[0]! < found[2]! ? found : new Float32Array(4);
  }

  /** The items whose pixels show at a stage point, from front to back. */
  at(x: number, y: number, frame: Frame, may: (item: Item) => boolean): Item[] {
    const probe = (this.probe ??= this.kit.MakeSurface(1, 1));
    if (!probe) return [];
    const canvas = probe.getCanvas();
    const info = {
      width: 1,
      height: 1,
      colorType: this.kit.ColorType.RGBA_8888,
      alphaType: this.kit.AlphaType.Unpremul,
      colorSpace: this.kit.ColorSpace.SRGB,
    };
    const found: Item[] = [];
    for (let n = frame.items.length - 1; n >= 0; n--) {
      const i = nthOf(frame, n);
      const item = frame.items[i]!;
      if (item.hidden || opacityOf(frame, i) <= 0 || !may(item)) continue;
      canvas.clear(this.kit.TRANSPARENT);
      canvas.save();
      canvas.translate(0.5 - x, 0.5 - y);
      this.item(canvas, frame, i);
      canvas.restore();
      const pixel = canvas.readPixels(0, 0, info);
      // A soft shadow or a glow at the edge is not yet the piece.
      if (pixel && pixel[3]! > 96) found.push(item);
    }
    return found;
  }

  /** Something painted in memory for a thumbnail: so many pixels of the page, as fine as the screen shows them (straight
   * alpha, RGBA). */
  thumbnail(width: number, height: number, paint: (canvas: Canvas) => void): ImageData | null {
    const ratio = window.devicePixelRatio || 1;
    return this.pixels(Math.round(width * ratio), Math.round(height * ratio), (canvas) => {
      canvas.scale(ratio, ratio);
      paint(canvas);
    });
  }

  /** Pixels (straight-alpha RGBA) of something painted in memory. */
  pixels(width: number, height: number, paint: (canvas: Canvas) => void): ImageData | null {
    const surface = this.kit.MakeSurface(width, height);
    if (!surface) return null;
    const canvas = surface.getCanvas();
    canvas.clear(this.kit.TRANSPARENT);
    paint(canvas);
    const info = {
      width,
      height,
      colorType: this.kit.ColorType.RGBA_8888,
      alphaType: this.kit.AlphaType.Unpremul,
      colorSpace: this.kit.ColorSpace.SRGB,
    };
    const read = canvas.readPixels(0, 0, info) as Uint8Array | null;
    const data = read ? new ImageData(new Uint8ClampedArray(read), width, height) : null;
    surface.delete();
    return data;
  }

  /** A shape that looks otherwise in every frame: nothing of it is kept. */
  private changedShape(canvas: Canvas, node: ShapeNode, path: Path, changed: Changed): void {
    const paints = [
      node.fill && this.brushes.brush(changed.paint(node.fill)),
      node.stroke && this.brushes.pen(changed.stroke(node.stroke)),
    ];
    for (const paint of paints) {
      if (!paint) continue;
      canvas.drawPath(path, paint);
      paint.delete();
    }
  }

  private shape(canvas: Canvas, node: ShapeNode, path: Path, changed: Changed | null): void {
    const kept = this.brushes.keep(node);
    kept.fill ??= node.fill && this.brushes.brush(node.fill);
    kept.pen ??= node.stroke && this.brushes.pen(node.stroke);
    if (kept.fill && node.shade && changed) this.shaded(canvas, node, kept.fill, path, changed);
    else if (kept.fill) canvas.drawPath(path, kept.fill);
    if (kept.pen) canvas.drawPath(path, kept.pen);
  }

  /** A gradient that bends with its shape. */
  private shaded(canvas: Canvas, node: ShapeNode, fill: Paint, path: Path, changed: Changed): void {
    const { kit } = this;
    const { points, triangles } = node.shade!;
    // Where the shape bulges out of its triangles there is something under them.
    if (covers(node.fill!)) canvas.drawPath(path, fill);
    const kept = this.brushes.keep(node);
    kept.shade ??= new Float32Array(points);
    const where = changed.take(points.length / 2);
    const vertices = kit.MakeVertices(kit.VertexMode.Triangles, where, kept.shade, null, triangles);
    canvas.save();
    canvas.clipPath(path, kit.ClipOp.Intersect, true);
    canvas.drawVertices(vertices, kit.BlendMode.Modulate, fill);
    canvas.restore();
    vertices.delete();
  }

  private node(canvas: Canvas, node: Node, changed: Changed | null): void {
    const { kit } = this;
    if (node.kind === "shape") {
      const path = this.brushes.path(node.outline, node.rule, changed);
      if (changed?.changesLook) this.changedShape(canvas, node, path, changed);
      else this.shape(canvas, node, path, changed);
      path.delete();
    } else if (node.kind === "picture") {
      const image = this.images.get(node.asset)!;
      const [x, y, w, h] = node.box;
      canvas.drawImageRectOptions(
        image,
        kit.XYWHRect(0, 0, image.width(), image.height()),
        kit.XYWHRect(x, y, w, h),
        kit.FilterMode.Linear,
        kit.MipmapMode.Linear,
      );
    } else if (node.kind === "mesh") {
      this.mesh(canvas, node, changed);
    } else {
      canvas.save();
      canvas.concat(nine(node.matrix));
      const opacity = changed ? changed.opacity(node.opacity) : node.opacity;
      for (const clip of node.clips) {
        const path = this.brushes.path(clip.outline, clip.rule, changed);
        canvas.clipPath(path, kit.ClipOp.Intersect, true);
        path.delete();
      }
      const alone = opacity < 1 || node.blend || node.isolated;
      if (alone) {
        const faded = new kit.Paint();
        faded.setAlphaf(opacity);
        faded.setBlendMode(this.brushes.mode(node.blend ?? "normal"));
        canvas.saveLayer(faded);
        faded.delete();
      }
      for (const child of node.nodes) this.node(canvas, child, changed);
      if (alone) canvas.restore();
      canvas.restore();
    }
  }

  /** A picture with so many clear pixels all round, ready to be shown smaller: its pixels are premultiplied, so that those
   * that are clear, whatever their colour, darken nothing beside them. */
  private redrawn(image: Image, around: number): Image {
    const { kit } = this;
    const [width, height] = [image.width() + 2 * around, image.height() + 2 * around];
    const info = {
      width,
      height,
      colorType: kit.ColorType.RGBA_8888,
      alphaType: kit.AlphaType.Premul,
      colorSpace: kit.ColorSpace.SRGB,
    };
    const pixels = kit.Malloc(Uint8Array, width * height * 4);
    const surface = kit.MakeRasterDirectSurface(info, pixels, width * 4)!;
    surface.getCanvas().clear(kit.TRANSPARENT);
    surface.getCanvas().drawImage(image, around, around);
    surface.flush();
    const made = kit.MakeImage(info, pixels.toTypedArray() as Uint8Array, width * 4)!;
    const ready = made.makeCopyWithDefaultMipmaps();
    made.delete();
    surface.delete();
    kit.Free(pixels);
    return ready;
  }

  private mesh(canvas: Canvas, node: MeshNode, changed: Changed | null): void {
    const { kit } = this;
    const kept = this.brushes.keep(node);
    if (!kept.texture) {
      const image = this.images.get(node.asset)!;
      const [x, y, w, h] = node.box;
      const places = new Float32Array(
        node.points.map((v, i) => (i % 2 ? ((v - y) * image.height()) / h : ((v - x) * image.width()) / w) + 1),
      );
      const paint = new kit.Paint();
      paint.setAntiAlias(true);
      // What lies beyond the picture on a mesh is clear, not smeared.
      const framed = this.redrawn(image, 1);
      const { Clamp } = kit.TileMode;
      const shader = framed.makeShaderOptions(Clamp, Clamp, kit.FilterMode.Linear, kit.MipmapMode.Linear);
      paint.setShader(shader);
      // The paint keeps what it needs of them.
      shader.delete();
      framed.delete();
      kept.texture = { paint, places, triangles: node.triangles };
    }
    const { paint, places, triangles } = kept.texture;
    const where = changed ? changed.take(node.points.length / 2) : new Float32Array(node.points);
    const vertices = kit.MakeVertices(kit.VertexMode.Triangles, where, places, null, triangles);
    canvas.drawVertices(vertices, kit.BlendMode.Modulate, paint);
    vertices.delete();
  }
}
