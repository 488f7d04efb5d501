/** The in-between that is looked at, with what goes wrong on it. */
import { Changed } from "../stage/art";
import { measure } from "../stage/measure";
import { stepOf, type Becoming } from "../session/morphs";
import type { Drawing, Point } from "../wire/types";
import { Painted } from "../stage/Painted";
import { H, W } from "./Side";
import { outline, shown, type Fit } from "./view";
import { colourOf } from "./marks";

export interface BetweenProps {
  becoming: Becoming | null;
  step: number;
  fit: Fit;
  /** The drawings faintly over one another below it. */
  over: readonly [Drawing, Drawing] | null;
  ready: number;
  title: string;
}

export function Between({ becoming, step, fit, over, ready, title }: BetweenProps) {
  const points = becoming ? stepOf(becoming, step)[0] : null;
  const to = (p: Point): Point => shown(fit, p);
  const bad = (becoming?.troubles ?? []).filter((t) => (t.amounts[step] ?? 0) > 0);
  const place = (d: Drawing | null): number[] => {
    const { scale, x, y } = fit;
    return [scale, 0, 0, scale, x - (d?.pivot[0] ?? 0) * scale, y - (d?.pivot[1] ?? 0) * scale];
  };
  return (
    <figure className="morph-side">
      <figcaption>{title}</figcaption>
      <div className="lineup morph between" style={{ width: W, height: H }} data-step={step}>
        <Painted
          now
          width={W}
          height={H}
          watch={[becoming, step, ready, fit.scale, fit.x, fit.y, over]}
          paint={(p) =>
            p.thumbnail(W, H, (c) => {
              const faint = new p.kit.Paint();
              faint.setAlphaf(0.4);
              for (const d of over ?? []) {
                c.saveLayer(faint);
                p.drawing(c, d.art, place(d));
                c.restore();
              }
              faint.delete();
              measure("drawn");
              if (!becoming) return;
              const through = new p.kit.Paint();
              through.setAlphaf(over ? 0.6 : 1);
              c.saveLayer(through);
              p.changed(c, becoming.art, place(null), new Changed(...stepOf(becoming, step)));
              c.restore();
              through.delete();
            })
          }
        />
        <svg width={W} height={H} aria-hidden="true">
          {over &&
            becoming?.met.map((m, n) => (
              <line
                key={m.id}
                x1={to(m.first)[0]}
                y1={to(m.first)[1]}
                x2={to(m.second)[0]}
                y2={to(m.second)[1]}
                stroke={colourOf(n)}
                strokeWidth={1.6}
                strokeDasharray="5 4"
              />
            ))}
          {points &&
            [...new Set(bad.map((t) => t.going))].map((n) => (
              <path key={n} d={outline(points, becoming!.going[n]!, to)} className="morph-bad" fill="none" />
            ))}
          {bad.map(
            (t, n) =>
              t.worst === step && (
                <circle key={n} cx={to(t.at)[0]} cy={to(t.at)[1]} r={13} className="morph-bad" fill="none" />
              ),
          )}
        </svg>
      </div>
    </figure>
  );
}
