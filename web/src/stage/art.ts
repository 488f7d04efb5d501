/** A drawing as a tree of outlines, pictures and layers, as `sorvan/core/model/art.py` has it. */

export type Six = [number, number, number, number, number, number];

export interface Outline {
  verbs: string;
  points: number[];
}

interface Stop {
  at: number;
  colour: string;
}

type Spread = "pad" | "reflect" | "repeat";

interface Flat {
  kind: "flat";
  colour: string;
}

interface Linear {
  kind: "linear";
  start: [number, number];
  end: [number, number];
  stops: Stop[];
  spread: Spread;
  matrix: Six;
}

interface Radial {
  kind: "radial";
  focus: [number, number];
  focus_radius: number;
  centre: [number, number];
  radius: number;
  stops: Stop[];
  spread: Spread;
  matrix: Six;
}

export type ArtPaint = Flat | Linear | Radial;

export interface Stroke {
  paint: ArtPaint;
  width: number;
  cap: "butt" | "round" | "square";
  join: "miter" | "round" | "bevel";
  miter: number;
  dash: number[];
  dash_offset: number;
}

export interface ShapeNode {
  kind: "shape";
  outline: Outline;
  rule: string;
  fill: ArtPaint | null;
  stroke: Stroke | null;
  /** Where a gradient lies while its shape bends: vertices at rest, and the triangles between them. */
  shade?: { points: number[]; triangles: number[] };
}

/** Whether nothing shows through a paint. */
export const covers = (paint: ArtPaint): boolean =>
  (paint.kind === "flat" ? [paint.colour] : paint.stops.map((s) => s.colour)).every((c) => c.endsWith("ff"));

export interface MeshNode {
  kind: "mesh";
  asset: string;
  box: [number, number, number, number];
  points: number[];
  triangles: number[];
}

export type Node =
  ShapeNode | MeshNode | { kind: "picture"; asset: string; box: [number, number, number, number] } | LayerNode;

export interface LayerNode {
  kind: "layer";
  matrix: Six;
  opacity: number;
  clips: { outline: Outline; rule: string }[];
  /** How it is laid on what is under it, where that is not plainly; by the names of CSS. */
  blend?: Blend;
  isolated?: boolean;
  nodes: Node[];
}

export type Blend = keyof typeof MODES;

/** What CanvasKit calls the blend modes of CSS. */
export const MODES = {
  normal: "SrcOver",
  multiply: "Multiply",
  screen: "Screen",
  overlay: "Overlay",
  darken: "Darken",
  lighten: "Lighten",
  "color-dodge": "ColorDodge",
  "color-burn": "ColorBurn",
  "hard-light": "HardLight",
  "soft-light": "SoftLight",
  difference: "Difference",
  exclusion: "Exclusion",
  hue: "Hue",
  saturation: "Saturation",
  color: "Color",
  luminosity: "Luminosity",
  "plus-lighter": "Plus",
} as const;

/** How a drawing as a whole is laid on what is under it. */
export function blendOf(art: Art | undefined): Blend {
  const only = art?.nodes.length === 1 ? art.nodes[0] : undefined;
  return (only?.kind === "layer" && only.blend) || "normal";
}

export interface Art {
  bounds: [number, number, number, number];
  nodes: Node[];
}

/** How many numbers of an outline each of its verbs takes. */
export const TAKES: Record<string, number> = { M: 2, L: 2, Q: 4, C: 6, Z: 0 };

export function* picturesOf(nodes: readonly Node[]): Generator<string> {
  for (const node of nodes) {
    if (node.kind === "picture" || node.kind === "mesh") yield node.asset;
    else if (node.kind === "layer") yield* picturesOf(node.nodes);
  }
}

const hex = (v: number): string =>
  Math.round(Math.min(Math.max(v, 0), 1) * 255)
    .toString(16)
    .padStart(2, "0");

/**
 * The points of a drawing that bends or becomes another, and what it then looks like, handed out in the order in which
 * its nodes are met; `sorvan/core/morph/looks.py` says which number is what.
 */
export class Changed {
  private at = 0;
  private seen = 0;

  constructor(
    private readonly points: Float32Array,
    private readonly looks: Float32Array | null = null,
  ) {}

  get changesLook(): boolean {
    return this.looks !== null;
  }

  take(count: number): Float32Array {
    this.at += count * 2;
    return this.points.subarray(this.at - count * 2, this.at);
  }

  private some(count: number): Float32Array {
    this.seen += count;
    return this.looks!.subarray(this.seen - count, this.seen);
  }

  opacity(of: number): number {
    return this.looks ? this.some(1)[0]! : of;
  }

  paint(paint: ArtPaint): ArtPaint {
    if (!this.looks) return paint;
    const colour = (v: Float32Array): string => `#${[...v].map(hex).join("")}`;
    if (paint.kind === "flat") return { kind: "flat", colour: colour(this.some(4)) };
    const matrix = [...this.some(6)] as Six;
    const g = this.some(paint.kind === "linear" ? 4 : 6);
    const stops = paint.stops.map(() => {
      const v = this.some(5);
      return { at: Math.min(Math.max(v[0]!, 0), 1), colour: colour(v.subarray(1)) };
    });
    if (paint.kind === "linear") return { ...paint, matrix, stops, start: [g[0]!, g[1]!], end: [g[2]!, g[3]!] };
    const [focus, centre]: [number, number][] = [
      [g[0]!, g[1]!],
      [g[3]!, g[4]!],
    ];
    const [focus_radius, radius] = [Math.max(g[2]!, 0), Math.max(g[5]!, 0)];
    return { ...paint, matrix, stops, focus: focus!, focus_radius, centre: centre!, radius };
  }

  stroke(stroke: Stroke): Stroke {
    if (!this.looks) return stroke;
    const paint = this.paint(stroke.paint);
    return { ...stroke, paint, width: this.some(1)[0]! };
  }
}
