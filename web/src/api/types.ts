/** The service's own types, under short names. */
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Production = Schemas["Production"];
export type Puppet = Schemas["Puppet"];
export type Piece = Schemas["Piece"];
export type Joint = Schemas["Joint"];
export type Motion = Schemas["Motion"];
export type Channel = Schemas["Channel"];
export type Key = Schemas["Key"];
export type Ease = Key["ease"];
export type ChannelKind = Channel["kind"];
/** The ways in which a hand can pull. */
export type Pull = "turn" | "move" | "scale";
export type Drawing = Schemas["Drawing"];
export type Shape = NonNullable<Drawing["shape"]>;
export type Chain = Schemas["Chain"];
export type Dial = Schemas["Dial"];
export type Swatch = Schemas["Swatch"];
export type Correction = Schemas["Correction"];
export type Reference = Schemas["Reference"];
export type Group = Schemas["Group"];
export type Side = Piece["side"];
export type Document = Production | Puppet | Motion;
export type Command = Schemas["Change"]["command"];
export type Ack = Schemas["Ack"];
export type Step = Schemas["Step"];
export type Listed = Schemas["Listed"];
export type Report = Schemas["Report"];
export type RenderOrder = Schemas["RenderOrder"];
export type RenderView = Schemas["RenderView"];

/** The id under which the puppet as a whole is turned and moved. */
export const ROOT = "puppet";

/** An error of the service: RFC 9457 problem details. */
export interface Problem {
  status: number;
  title: string;
  detail: string;
  where?: string;
  remedy?: string;
  kind?: string;
  mine?: string;
  theirs?: string[];
}

export interface Item {
  puppet: string;
  piece: string;
  arts: string[];
  boxes: [number, number, number, number][];
  /** Which drawing shows at rest. */
  rest: number;
  hidden: boolean;
  opacity: number;
  /** Items this one shows only inside of (true) or outside of. */
  masks: [number, boolean][];
}

/** What to draw in some frames, as sent: little-endian float32 and int16. */
export interface DrawnMessage {
  matrices: Uint8Array;
  shown?: Uint8Array;
  points?: { item: number; drawing: number; count: number; data: Uint8Array }[];
  /** For each limb that reaches: its joints when only turned, when only reaching, and the blend in percent. */
  reached?: Record<string, [Uint8Array, Uint8Array, Uint8Array]>;
}

/** A likely mistake, as the core's checks see it. */
export interface Finding {
  check: string;
  text: string;
  joints: string[];
  pieces: string[];
  mend: Command | null;
  mending: string;
}

export interface BendReport {
  piece: string;
  drawing: number;
  points: number;
  milliseconds: number;
  triangles?: number;
  smallest_angle?: number;
}

export interface RigReport {
  puppet: string;
  findings: Finding[];
  roles: Record<string, string>;
  twins: Record<string, string>;
  bends: BendReport[];
  colours: Record<string, string[]>;
}

/** Messages of the live socket, from the service. */
export type FromService =
  | { type: "changed"; seq: number; changed: Document[]; removed: string[]; undo: Step | null; redo: Step | null }
  | (DrawnMessage & {
      type: "plan";
      seq: number;
      frames: number;
      items: Item[];
      joints: string[];
      worlds: Uint8Array;
      rest: DrawnMessage & { worlds: Uint8Array };
      behind?: DrawnMessage & { items: Item[] };
      watch: Watch;
      places?: Places;
    })
  | (DrawnMessage & { type: "part"; seq: number; start: number; stop: number; worlds: Uint8Array })
  | { type: "spacing"; channels: Record<string, { gaps: Gap[]; values: Uint8Array }>; gone: string[] }
  | (DrawnMessage & {
      type: "pose";
      n: number;
      frame: number;
      /** Only where they may differ from the plan's. */
      items?: Item[];
      joints?: string[];
      worlds: Uint8Array;
      tried: Record<string, number[]>;
      places?: Places;
    })
  | ({ type: "rig" } & RigReport)
  | { type: "mesh"; piece: string; joint: string | null; vertices: Uint8Array; triangles: Uint8Array; weights?: Uint8Array }
  | { type: "import"; window: string; part: number }
  /** The hand that closed on a piece holds this joint of it. */
  | { type: "grabbed"; joint: string }
  | { type: "settled"; seq: number }
  | { type: "render"; render: RenderView }
  | { type: "database"; here: boolean }
  | { type: "refused"; what: string; where: string; remedy: string }
  | { type: "gone"; seq: number }
  | { type: "removed" };

/** A gap between two keys: its first frame, its last, and the progress of each frame. */
export type Gap = [number, number, number[]];

export interface Watch {
  puppet: string;
  motion: string | null;
  blocking: boolean;
}

export type ToService =
  | ({ type: "watch" } & Watch)
  | { type: "look-at-mesh"; piece: string; joint: string | null }
  | { type: "grab"; frame: number; joint: string; piece: string | null; pull: Pull; at: Point; tried: Record<string, number[]> }
  | { type: "drag"; n: number; at: Point; whole_steps: boolean }
  | { type: "try-pose"; n: number; frame: number; tried: Record<string, number[]> }
  | { type: "try-command"; n: number; command: Command };

export type Point = [number, number];

/** Where each piece's pivot is at rest, with its turn, skew and scale: x, y, angle, skew, sx, sy. */
export type Places = Record<string, [number, number, number, number, number, number]>;
