/** One card of the pose strip. It is drawn again only when something of its own changes, however the strip is
 * scrolled or widened. */
import { memo } from "react";
import { useWorkshop } from "../session";
import { measure } from "../stage/measure";
import type { Painter } from "../stage/painter";
import { Painted } from "../stage/Painted";
import { curveThrough } from "./ease";
import { thumbnail, WIDEST } from "./thumbnail";
import { px } from "../ui/text";

/** Screen pixels at a card's right edge by which it is made longer. */
export const EDGE = 7;
const HIGH = px(56);

interface Props {
  /** Its place in the row, and the frame that it is of. */
  n: number;
  frame: number;
  frames: number;
  label: string;
  breakdown: boolean;
  left: number;
  width: number;
  chosen: boolean;
  progress: number[] | null | undefined;
  /** The frames of all cards, which are drawn at one scale. */
  row: readonly number[];
  /** Counts how often art has come. */
  ready: number;
  choose: (n: number, event: React.MouseEvent) => void;
  chart: (frame: number) => void;
}

export const PoseCard = memo(function PoseCard(props: Props) {
  const { n, frame, frames, label, breakdown, left, width, chosen, progress, row, ready, choose, chart } = props;
  const plan = useWorkshop((w) => w.plan);
  const whole = useWorkshop((w) => w.cards);
  const name = label || `pose ${n + 1}`;
  const paint = (p: Painter): ImageData | null => {
    const began = performance.now();
    const made = plan && thumbnail(p, plan, whole, frame, row, WIDEST, HIGH);
    measure("thumbnail", performance.now() - began);
    return made;
  };
  return (
    <div
      data-card={n}
      className={`pose-card${chosen ? " chosen" : ""}${breakdown ? " breakdown" : ""}`}
      style={{ left, width: Math.max(6, width - 3) }}
    >
      <button
        type="button"
        className="pose-face"
        aria-pressed={chosen}
        aria-label={`${name} ${frames} fr, frame ${frame + 1}`}
        // A click of the hand is a pull that did not move; this is for the keyboard.
        onClick={(e) => e.detail === 0 && choose(n, e)}
      >
        <Painted
          className="pose-thumb"
          width={WIDEST}
          height={HIGH}
          paint={paint}
          watch={[plan, whole, ready, frame, row]}
        />
        <span className="pose-label">
          <b>{width > 60 ? name : label.slice(0, 2) || n + 1}</b>{" "}
          {width > 44 && <span className="faint">{frames} fr</span>}
        </span>
      </button>
      {width > 30 && progress !== undefined && (
        <button
          type="button"
          className="chip"
          aria-label={`Timing chart of ${name}`}
          title="Open the timing chart"
          onClick={() => chart(frame)}
        >
          {progress === null ? (
            <span aria-hidden="true">≠</span>
          ) : (
            <svg width={18} height={14} viewBox="-1 -2 20 16" aria-hidden="true">
              <path d={curveThrough(progress, 18, 12)} fill="none" stroke="currentColor" strokeWidth={1.6} />
            </svg>
          )}
        </button>
      )}
      <span className="card-edge-grip" style={{ width: EDGE }} title="Drag to retime" aria-hidden="true" />
    </div>
  );
});
