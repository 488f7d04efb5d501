/** Onion skin: earlier and later frames under the work, tinted and fading, drawn by the stage's own painter. */
import type { Canvas, Image } from "canvaskit-wasm";
import { get, motionOf, type Onion } from "../session";
import type { Painter } from "./painter";
import type { Frame } from "../session/frames";
import { token } from "../ui/tokens";
import { boxOf, type Scene } from "./scene";
import type { Target } from "./surface";

/** A frame of the skin: how many away, and which way. */
export interface Skin {
  frame: number;
  n: number;
  way: -1 | 1;
}

/** The frames of the skin around a frame, those farthest away first; round the seam of a cycle. */
export function skins(
  onion: Pick<Onion, "before" | "after" | "by" | "every">,
  frame: number,
  frames: number,
  cycle: boolean,
  poses: readonly number[],
): Skin[] {
  const found: Skin[] = [];
  const put = (at: number, n: number, way: -1 | 1) => {
    const place = cycle ? ((at % frames) + frames) % frames : at;
    if (place >= 0 && place < frames && place !== frame && !found.some((s) => s.frame === place))
      found.push({ frame: place, n, way });
  };
  const row = [...poses].filter((p) => p < frames).sort((a, b) => a - b);
  for (const way of [-1, 1] as const) {
    const count = way < 0 ? onion.before : onion.after;
    for (let n = 1; n <= count; n++) {
      if (onion.by === "frames") put(frame + way * n * onion.every, n, way);
      else {
        const later = row.filter((p) => (way < 0 ? p < frame : p > frame));
        const other = cycle ? row.filter((p) => (way < 0 ? p > frame : p < frame)) : [];
        const line = way < 0 ? [...later.reverse(), ...other.reverse()] : [...later, ...other];
        const pose = line[n - 1];
        if (pose !== undefined) put(pose, n, way);
      }
    }
  }
  return found.sort((a, b) => b.n - a.n);
}

/** Pictures kept from one drawing to the next, as long as they show the same. */
const MOST = 24;

interface Kept {
  image: Image;
  left: number;
  top: number;
}

export class OnionSkin {
  private kept = new Map<string, Kept>();
  private of: unknown[] = [];

  /** Draw the skin; the canvas is in stage units, `pixels` of the surface for each. */
  draw(painter: Painter, canvas: Canvas, target: Target, scene: Scene, pixels: number, only?: ReadonlySet<string>) {
    const { onion, plan, trial, frame } = get();
    const motion = motionOf(get());
    if (!onion.on || !plan || !motion || !painter.has(scene.frame.items)) return;
    const source = trial ?? plan;
    const shown = onion.limb ? (limbOf() ?? only) : only;
    const key = [source.drawn, source.worlds, pixels, onion.look, shown ? [...shown].join() : "", target];
    if (key.some((k, i) => k !== this.of[i])) this.clear(key);
    const poses = Object.keys(motion.poses ?? {}).map(Number);
    const { kit } = painter;
    for (const skin of skins(onion, frame, source.frames, motion.cycle, poses)) {
      const picture = this.picture(painter, target, { ...source.drawn, at: skin.frame }, pixels, onion, shown);
      if (!picture) continue;
      const count = skin.way < 0 ? onion.before : onion.after;
      const paint = new kit.Paint();
      paint.setAlphaf((onion.strength / 100) * (1 - (skin.n - 1) / (count + 1)));
      const tint = painter.colour(`${token(skin.way < 0 ? "earlier" : "later")}ff`);
      const filter =
        onion.look === "outline"
          ? kit.ColorFilter.MakeBlend(tint, kit.BlendMode.SrcIn)
          : kit.ColorFilter.MakeBlend(kit.Color4f(tint[0]!, tint[1]!, tint[2]!, 0.55), kit.BlendMode.SrcATop);
      paint.setColorFilter(filter);
      canvas.save();
      canvas.translate(picture.left, picture.top);
      canvas.scale(1 / pixels, 1 / pixels);
      canvas.drawImage(picture.image, 0, 0, paint);
      canvas.restore();
      filter.delete();
      paint.delete();
    }
  }

  clear(of: unknown[] = []): void {
    for (const { image } of this.kept.values()) image.delete();
    this.kept.clear();
    this.of = of;
  }

  private picture(
    painter: Painter,
    target: Target,
    frame: Frame,
    pixels: number,
    onion: Onion,
    only?: ReadonlySet<string>,
  ): Kept | null {
    const known = this.kept.get(String(frame.at));
    if (known) return known;
    const box = boxOf(frame);
    if (!box) return null;
    const air = 4;
    const [left, top] = [box[0] - air, box[1] - air];
    const [width, height] = [box[2] - left + air, box[3] - top + air].map((v) => Math.ceil(v * pixels)) as [
      number,
      number,
    ];
    if (width * height > 6e6) return null;
    const { kit } = painter;
    const surface = target.surface.makeSurface({ ...target.surface.imageInfo(), width, height });
    if (!surface) return null;
    const canvas = surface.getCanvas();
    canvas.clear(kit.TRANSPARENT);
    const puppet = () => {
      canvas.save();
      canvas.scale(pixels, pixels);
      canvas.translate(-left, -top);
      painter.draw(canvas, frame, only);
      canvas.restore();
    };
    if (onion.look === "outline") {
      const paint = new kit.Paint();
      const wide = kit.ImageFilter.MakeDilate(1.5, 1.5, null);
      paint.setImageFilter(wide);
      canvas.saveLayer(paint);
      puppet();
      canvas.restore();
      const inside = new kit.Paint();
      inside.setBlendMode(kit.BlendMode.DstOut);
      canvas.saveLayer(inside);
      puppet();
      canvas.restore();
      wide.delete();
      paint.delete();
      inside.delete();
    } else puppet();
    surface.flush();
    const image = surface.makeImageSnapshot();
    surface.delete();
    if (this.kept.size >= MOST) {
      const [oldest] = this.kept.keys();
      this.kept.get(oldest!)!.image.delete();
      this.kept.delete(oldest!);
    }
    const made = { image, left, top };
    this.kept.set(String(frame.at), made);
    return made;
  }
}

/** The pieces of the limb that is selected; null if none is. */
function limbOf(): ReadonlySet<string> | null {
  const { plan, joint, pieces } = get();
  const limb = plan?.limbs[joint ?? pieces[0] ?? ""];
  if (!limb) return null;
  const { items } = plan!.drawn;
  return new Set(items.map((i) => i.piece).filter((id) => plan!.limbs[id] === limb));
}
