/** A proposed rig over the figure: links as stitches, pins as rings; what is less sure is fainter. */
import { useWorkshop } from "../../session";
import { jointPlace, sceneAt } from "../../stage/scene";
import type { Hang, Point, Puppet } from "../../wire/types";
import type { Rigging } from "./proposal";

export function ProposedOver({ puppet, rigging, to }: { puppet: Puppet; rigging: Rigging; to: (p: Point) => Point }) {
  const plan = useWorkshop((w) => w.plan);
  const scene = sceneAt(plan, null, 0, null);
  const { limbs } = rigging;
  if (!limbs || !scene || plan?.puppet !== puppet.id) return null;
  const pins = new Map(limbs.flatMap((l) => l.hangs).map((h) => [h.hung.joint, h.hung.pin]));
  const place = (id: string): Point | null => {
    const at = (pins.get(id) as Point | null | undefined) ?? jointPlace(scene, id);
    return at && to(at);
  };
  return (
    <g pointerEvents="none" data-proposed>
      {limbs
        .filter((l) => !rigging.refused.has(l.name))
        .flatMap((l) =>
          l.hangs.map((h) => (
            <Hung
              key={h.hung.joint}
              hang={h}
              place={place}
              shown={rigging.shown === null || rigging.shown === l.name}
            />
          )),
        )}
      {rigging.tried && <Tried from={place(rigging.tried.on)} to={place(rigging.tried.joint)} />}
      {rigging.open.map((id) => (
        <Mark key={id} at={place(id)} text="?" />
      ))}
      {beside(rigging.questions.map((q) => place(q.joint))).map((at, n) => (
        <Mark key={n} at={at} text={String(n + 1)} answered={rigging.said.has(rigging.questions[n]!.joint)} />
      ))}
    </g>
  );
}

/** Pixels that marks keep apart, so that each can be read. */
const APART = 22;

/** Places one beside the other where they would lie over one another. */
function beside(places: (Point | null)[]): (Point | null)[] {
  const put: Point[] = [];
  return places.map((at) => {
    if (!at) return null;
    let [x] = at;
    while (put.some((p) => Math.hypot(p[0] - x, p[1] - at[1]) < APART)) x += APART;
    put.push([x, at[1]]);
    return [x, at[1]];
  });
}

/** The mark of what is not clear, on its piece. */
function Mark({ at, text, answered = false }: { at: Point | null; text: string; answered?: boolean }) {
  return (
    at && (
      <g className={`open${answered ? " answered" : ""}`}>
        <circle cx={at[0]} cy={at[1]} r={9} />
        <text x={at[0]} y={at[1] + 4.5} textAnchor="middle">
          {text}
        </text>
      </g>
    )
  );
}

/** An answer that is looked at: from what it would hang on. */
function Tried({ from, to }: { from: Point | null; to: Point | null }) {
  return (
    from &&
    to && (
      <>
        <path className="halo" d={`M${from.join(" ")}L${to.join(" ")}`} />
        <path className="stitch tried" d={`M${from.join(" ")}L${to.join(" ")}`} />
      </>
    )
  );
}

function Hung({ hang, place, shown }: { hang: Hang; place: (id: string) => Point | null; shown: boolean }) {
  const { hung, sure } = hang;
  const at = place(hung.joint);
  const above = hung.parent ? place(hung.parent) : null;
  if (!at) return null;
  return (
    <g
      className={`hung${shown ? "" : " aside"}`}
      data-joint={hung.joint}
      data-sure={sure}
      opacity={shown ? 0.35 + 0.65 * sure : 0.2}
    >
      {above && (
        <>
          <path className="halo" d={`M${above.join(" ")}L${at.join(" ")}`} />
          <path
            className="stitch"
            d={`M${above.join(" ")}L${at.join(" ")}`}
            strokeDasharray={sure < 0.8 ? "2 6" : "8 5"}
          />
        </>
      )}
      <circle className="halo" cx={at[0]} cy={at[1]} r={6} />
      <circle className="pin" cx={at[0]} cy={at[1]} r={6} />
      <circle className="dot" cx={at[0]} cy={at[1]} r={1.8} />
    </g>
  );
}
