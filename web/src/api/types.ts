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
  art: string;
  hidden: boolean;
}

/** Messages of the live socket, from the service. Blocks are little-endian float32. */
export type FromService =
  | { type: "changed"; seq: number; changed: Document[]; removed: string[]; undo: Step | null; redo: Step | null }
  | {
      type: "plan";
      seq: number;
      frames: number;
      items: Item[];
      matrices: Uint8Array;
      joints: string[];
      worlds: Uint8Array;
      rest: { matrices: Uint8Array; worlds: Uint8Array };
      behind?: { items: Item[]; matrices: Uint8Array };
      watch: Watch;
      places?: Places;
    }
  | { type: "part"; seq: number; start: number; stop: number; matrices: Uint8Array; worlds: Uint8Array }
  | { type: "spacing"; channels: Record<string, { gaps: Gap[]; values: Uint8Array }>; gone: string[] }
  | {
      type: "pose";
      n: number;
      frame: number;
      /** Only where they may differ from the plan's. */
      items?: Item[];
      joints?: string[];
      matrices: Uint8Array;
      worlds: Uint8Array;
      tried: Record<string, number[]>;
      places?: Places;
    }
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
  | { type: "grab"; frame: number; joint: string; pull: ChannelKind; at: Point; tried: Record<string, number[]> }
  | { type: "drag"; n: number; at: Point; whole_steps: boolean }
  | { type: "try-pose"; n: number; frame: number; tried: Record<string, number[]> }
  | { type: "try-command"; n: number; command: Command };

export type Point = [number, number];

/** Where each piece's pivot is at rest, with its turn, skew and scale: x, y, angle, skew, sx, sy. */
export type Places = Record<string, [number, number, number, number, number, number]>;
