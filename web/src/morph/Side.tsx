/** One of the two drawings, with its match marks: a click on its outline sets one, a drag moves it. */
import { useRef } from "react";
import type { Becoming } from "../session/morphs";
import type { Drawing, Mark, Point } from "../wire/types";
import { measure } from "../stage/measure";
import { Painted } from "../stage/Painted";
import { usePull } from "../ui/pull";
import { within } from "../stage/view";
import { MarkSign } from "./marks";
import { nearest, outline, placed, shown, type Fit } from "./view";

export const [W, H] = [300, 340];
const NEAR = 15;

interface SideProps {
  side: 0 | 1;
  title: string;
  drawing: Drawing;
  becoming: Becoming | null;
  fit: Fit;
  marks: readonly Mark[];
  chosen: string | null;
  /** What is pointed at in the list of shapes. */
  lit: number | null;
  ready: number;
  choose: (mark: string | null) => void;
  add: (side: 0 | 1, here: Point, there: Point) => void;
  moving: (mark: string, side: 0 | 1, to: Point) => void;
  moved: (mark: string, side: 0 | 1, to: Point) => void;
  back: () => void;
}

/** A place in a drawing's own units, and the other way. */
const own = (d: Drawing, [x, y]: Point): Point => [x + d.pivot[0]!, y + d.pivot[1]!];
export const fromPivot = (d: Drawing, [x, y]: readonly number[]): Point => [x! - d.pivot[0]!, y! - d.pivot[1]!];

export function Side(props: SideProps) {
  const { side, title, drawing, becoming, fit, marks, chosen, lit, choose, add, moving, moved, back } = props;
  const area = useRef<HTMLDivElement>(null);
  const at = (e: React.PointerEvent): Point => within(area.current!, e);
  const placeOf = (m: Mark): Point => {
    const met = becoming?.met.find((x) => x.id === m.id);
    return met ? (side ? met.second : met.first) : fromPivot(drawing, side ? m.second : m.first);
  };
  const pull = usePull<HTMLDivElement>((event) => {
    area.current?.focus();
    const start = at(event);
    const under = marks.find((m) => {
      const [x, y] = shown(fit, placeOf(m));
      return Math.hypot(x - start[0], y - start[1]) < NEAR;
    });
    if (under) {
      choose(under.id);
      let to: Point | null = null;
      return {
        move(e) {
          measure("pointer");
          to = own(drawing, placed(fit, at(e)));
          moving(under.id, side, to);
        },
        end: () => (to ? moved(under.id, side, to) : undefined),
        cancel: back,
      };
    }
    return {
      end() {
        const found = becoming && nearest(becoming, side, placed(fit, start));
        if (found && found.off * fit.scale < 40) add(side, found.here, found.there);
      },
    };
  });
  const keys = (e: React.KeyboardEvent) => {
    const step = e.shiftKey ? 10 : 1;
    const ways: Record<string, Point> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    const way = ways[e.key];
    const mark = marks.find((m) => m.id === chosen);
    if (!way || !mark) return;
    e.preventDefault();
    const from = own(drawing, placeOf(mark));
    moved(mark.id, side, [from[0] + way[0], from[1] + way[1]]);
  };
  return (
    <figure className="morph-side">
      <figcaption>{title}</figcaption>
      <div
        ref={area}
        className="lineup morph"
        style={{ width: W, height: H }}
        data-scale={fit.scale}
        data-x={fit.x - drawing.pivot[0]! * fit.scale}
        data-y={fit.y - drawing.pivot[1]! * fit.scale}
        tabIndex={0}
        role="application"
        aria-label={`${title}: click on its outline to set a mark; arrow keys move the chosen mark`}
        {...pull}
        onKeyDown={keys}
      >
        <Painted
          now
          width={W}
          height={H}
          watch={[drawing.art, props.ready, fit.scale, fit.x, fit.y]}
          paint={(p) =>
            p.thumbnail(W, H, (c) => {
              const { scale, x, y } = fit;
              p.drawing(c, drawing.art, [
                scale,
                0,
                0,
                scale,
                x - drawing.pivot[0]! * scale,
                y - drawing.pivot[1]! * scale,
              ]);
            })
          }
        />
        <svg width={W} height={H} aria-hidden="true">
          {becoming && lit !== null && becoming.going[lit] && (
            <path
              d={outline(becoming.ends[side], becoming.going[lit]!, (p) => shown(fit, p))}
              className="morph-lit"
              fill="none"
            />
          )}
          {marks.map((m, n) => (
            <MarkSign
              key={m.id}
              n={n}
              at={shown(fit, placeOf(m))}
              chosen={m.id === chosen}
              open={becoming?.crossed.includes(m.id)}
            />
          ))}
        </svg>
      </div>
    </figure>
  );
}
