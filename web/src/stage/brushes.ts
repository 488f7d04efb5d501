/** Paths, paints and blend modes of Skia for what art says, and what of them is kept from frame to frame. */
import type { CanvasKit, Paint, Path } from "canvaskit-wasm";
import {
  MODES,
  TAKES,
  type ArtPaint,
  type Blend,
  type Changed,
  type Node,
  type Outline,
  type Six,
  type Stroke,
} from "./art";

/** What does not change from frame to frame of a bent node. */
interface Kept {
  verbs?: Float32Array;
  fill?: Paint | null;
  pen?: Paint | null;
  shade?: Float32Array;
  texture?: { paint: Paint; places: Float32Array; triangles: number[] };
}

/** Six numbers as the nine of a Skia matrix. */
export const nine = (m: Six): number[] => [m[0], m[2], m[4], m[1], m[3], m[5], 0, 0, 1];

export class Brushes {
  private readonly kept = new WeakMap<object, Kept>();

  constructor(private readonly kit: CanvasKit) {}

  /** Delete what was made for these nodes. */
  close(nodes: Node[]): void {
    for (const node of nodes) {
      if (node.kind === "layer") this.close(node.nodes);
      const kept = this.kept.get(node);
      if (!kept) continue;
      kept.fill?.delete();
      kept.pen?.delete();
      kept.texture?.paint.delete();
      this.kept.delete(node);
    }
  }

  colour(text: string): Float32Array {
    const part = (i: number) => parseInt(text.slice(i, i + 2), 16);
    return this.kit.Color4f(part(1) / 255, part(3) / 255, part(5) / 255, part(7) / 255);
  }

  /** The verbs of an outline with room for its points behind each. */
  commands(outline: Outline): Float32Array {
    const { kit } = this;
    const verbs = {
      M: [kit.MOVE_VERB, 2],
      L: [kit.LINE_VERB, 2],
      Q: [kit.QUAD_VERB, 4],
      C: [kit.CUBIC_VERB, 6],
      Z: [kit.CLOSE_VERB, 0],
    } as const;
    const commands: number[] = [];
    let at = 0;
    for (const letter of outline.verbs) {
      const [verb, takes] = verbs[letter as keyof typeof verbs];
      commands.push(verb);
      for (let i = 0; i < takes; i++) commands.push(outline.points[at++]!);
    }
    return new Float32Array(commands);
  }

  path(outline: Outline, rule: string, changed: Changed | null): Path {
    const { kit } = this;
    const kept = this.keep(outline);
    const commands = (kept.verbs ??= this.commands(outline));
    if (changed) {
      const moved = changed.take(outline.points.length / 2);
      let [to, from] = [0, 0];
      for (const letter of outline.verbs) {
        to += 1;
        for (let left = TAKES[letter] ?? 0; left > 0; left--) commands[to++] = moved[from++]!;
      }
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

  keep(thing: object): Kept {
    let kept = this.kept.get(thing);
    if (!kept) this.kept.set(thing, (kept = {}));
    return kept;
  }

  brush(paint: ArtPaint): Paint {
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
    const shader =
      paint.kind === "linear"
        ? kit.Shader.MakeLinearGradient(paint.start, paint.end, colours, places, tile, local)
        : kit.Shader.MakeTwoPointConicalGradient(
            paint.focus,
            paint.focus_radius,
            paint.centre,
            paint.radius,
            colours,
            places,
            tile,
            local,
          );
    made.setShader(shader);
    shader.delete();
    return made;
  }

  mode(blend: Blend) {
    return this.kit.BlendMode[MODES[blend]];
  }

  pen(stroke: Stroke): Paint {
    const { kit } = this;
    const pen = this.brush(stroke.paint);
    pen.setStyle(kit.PaintStyle.Stroke);
    pen.setStrokeWidth(stroke.width);
    pen.setStrokeCap(
      { butt: kit.StrokeCap.Butt, round: kit.StrokeCap.Round, square: kit.StrokeCap.Square }[stroke.cap],
    );
    pen.setStrokeJoin(
      { miter: kit.StrokeJoin.Miter, round: kit.StrokeJoin.Round, bevel: kit.StrokeJoin.Bevel }[stroke.join],
    );
    pen.setStrokeMiter(stroke.miter);
    if (stroke.dash.length) {
      const dash = kit.PathEffect.MakeDash(stroke.dash, stroke.dash_offset);
      pen.setPathEffect(dash);
      dash.delete();
    }
    return pen;
  }
}
