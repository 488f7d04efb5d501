/** What the Motion bench says of the motion and of the selected joint. */
import { JointFields } from "../../parts/JointFields";
import { MotionControls } from "../../parts/MotionControls";
import { useWorkshop } from "../../session";
import { type ChannelKind, type Motion, type Puppet } from "../../wire/types";
import { key, valuesAt } from "./commands";
import { InHand, namesOf } from "./InHand";

/** Of how many joints in hand the names are said. */
const NAMED = 5;

export function Controls({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  return <MotionControls puppet={puppet} motion={motion} frame={frame} valueAt={valuesAt} key_={key} />;
}

export function JointValues({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const joint = useWorkshop((w) => w.joint);
  const joints = useWorkshop((w) => w.joints);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const tried = useWorkshop((w) => w.pose?.tried);
  useWorkshop((w) => w.spacing);
  if (!joint)
    return (
      <div className="card-sheet">
        <p className="hint mt-0 mb-0">
          Pull a piece on the stage: it turns about its pin, and what hangs on it follows. Each pull makes a key
          {frame < 0 ? " at the frame that shows" : ` at frame ${frame + 1}`}. Draw a box, or click with Shift, to take
          several joints in hand.
        </p>
      </div>
    );
  if (frame < 0) return null;
  const name = namesOf(puppet, joints);
  const value = (kind: ChannelKind, neutral: number[]) =>
    tried?.[`${joint}.${kind}`] ?? valuesAt(`${joint}.${kind}`, frame) ?? neutral;
  const keyed = (kind: ChannelKind) => motion.channels?.[`${joint}.${kind}`]?.keys?.[String(frame)] !== undefined;
  const put = (kind: ChannelKind, numbers: (number | null)[]) => {
    const id = `${joint}.${kind}`;
    // What is tried nobody but this page knows.
    void key({ [id]: numbers.map((v, k) => v ?? tried?.[id]?.[k] ?? null) }, frame);
  };
  const mark = (kind: ChannelKind) =>
    keyed(kind) ? <span className="key-dot d-inline-block ms-1" title="Keyed here" /> : null;
  return (
    <div className="card-sheet">
      <h2 className="heading mb-2 text-truncate">
        {name} <span className="faint fw-normal small">at frame {frame + 1}</span>
      </h2>
      {joints.length > 1 ? (
        <p className="hint mt-0 mb-2">
          {joints
            .slice(0, NAMED)
            .map((id) => namesOf(puppet, [id]))
            .join(", ")}
          {joints.length > NAMED && ` and ${joints.length - NAMED} more`}
        </p>
      ) : (
        <JointFields value={value} put={put} mark={mark} />
      )}
      <InHand puppet={puppet} />
    </div>
  );
}
