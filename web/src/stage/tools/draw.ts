/** Drawing simple shapes: drag a rectangle or an ellipse, click the corners of a polygon, or draw by hand. */
import { distance } from "../../geometry";
import { freshId, get, submitTried, pickOut } from "../../session";
import type { Command, Point } from "../../wire/types";
import { trying, type Drag, type Hand, type Tool } from "../tool";

export type ShapeKind = "rectangle" | "ellipse" | "polygon" | "freehand";

export interface Ink {
  fill: string | null;
  stroke: string | null;
  width: number;
  smoothing: number;
}

export interface ShapeWishes {
  kind: ShapeKind;
  /** What is drawn with, asked when it is needed: it may change while a polygon is open. */
  ink(): Ink;
  /** The corners so far, for the overlay. */
  show(points: Point[]): void;
  puppet(): Promise<string | null>;
}

export interface DrawTool extends Tool {
  /** Make the corners of an open polygon a line. */
  finish(): void;
  /** Let an open polygon go. */
  drop(): void;
}

/** Screen pixels within which a line has come back to its beginning: by a click, or by the end of a stroke. */
const CLOSING = { polygon: 9, freehand: 24 };
/** Screen pixels between two points of a stroke. */
const STRIDE = 2;

/** A line of the hand, shown while it is drawn. */
export function stroking(hand: Hand, show: (points: Point[]) => void, done: (points: Point[], to: Hand) => void): Drag {
  let points: Point[] = [hand.at];
  return {
    move(to) {
      if (distance(to.at, points[points.length - 1]!) * to.scale < STRIDE) return;
      points = [...points, to.at];
      show(points);
    },
    end: (to) => done(points, to),
    cancel: () => show([]),
  };
}

export function drawTool(wishes: ShapeWishes): DrawTool {
  let corners: Point[] = [];

  const command = (puppet: string, id: string, points: Point[], closed: boolean): Command => {
    const { kind } = wishes;
    return {
      do: "draw-shape",
      puppet,
      id,
      name: kind === "freehand" ? "outline" : kind,
      kind,
      points,
      closed,
      ...wishes.ink(),
    };
  };

  const make = async (points: Point[], closed: boolean): Promise<void> => {
    const puppet = points.length > 1 ? await wishes.puppet() : null;
    wishes.show([]);
    if (!puppet) return;
    const id = freshId();
    if (await submitTried(command(puppet, id, points, closed))) pickOut({ pieces: [id] });
  };

  const finish = (closed: boolean): void => {
    const points = corners;
    corners = [];
    if (points.length > 1) void make(points, closed);
    else wishes.show([]);
  };

  const cornering = (hand: Hand): Drag => {
    const first = corners[0];
    // Clicking the first corner again closes the polygon.
    const closing = corners.length > 2 && !!first && distance(hand.at, first) * hand.scale < CLOSING.polygon;
    const before = corners;
    if (!closing) corners = [...corners, hand.at];
    wishes.show(corners);
    return {
      move(to) {
        if (closing) return;
        corners = [...before, to.at];
        wishes.show(corners);
      },
      end: () => closing && finish(true),
      cancel() {
        corners = before;
        wishes.show(corners);
      },
    };
  };

  const outlining = (hand: Hand): Drag =>
    stroking(hand, wishes.show, (points, to) => {
      if (points.length < 2) return wishes.show([]);
      // A hand-drawn line that comes back to its beginning is a closed outline.
      const closed = distance(points[0]!, points[points.length - 1]!) * to.scale < CLOSING.freehand;
      void make(closed ? points.slice(0, -1) : points, closed);
    });

  const spanning = (from: Hand): Drag => {
    let points: Point[] = [from.at];
    return trying({
      command: (hand) => {
        points = [from.at, hand.shift ? squared(from.at, hand.at) : hand.at];
        const { puppet } = get();
        return puppet ? command(puppet, "try-shape", points, true) : null;
      },
      make: () => make(points, true),
    });
  };

  return {
    begin(hand) {
      pickOut({ pieces: [] });
      if (wishes.kind === "polygon") return cornering(hand);
      return wishes.kind === "freehand" ? outlining(hand) : spanning(hand);
    },
    finish: () => finish(false),
    drop() {
      corners = [];
      wishes.show([]);
    },
  };
}

/** As wide as it is high. */
function squared([ax, ay]: Point, [x, y]: Point): Point {
  const side = Math.max(Math.abs(x - ax), Math.abs(y - ay));
  return [ax + Math.sign(x - ax) * side, ay + Math.sign(y - ay) * side];
}
