/** What the Motion bench says of the motion and of the selected joint. */
import { JointFields } from "../../parts/JointFields";
import { MotionControls } from "../../parts/MotionControls";
import { useWorkshop } from "../../session";
import { ROOT, type ChannelKind, type Motion, type Puppet } from "../../wire/types";
import { key, valuesAt } from "./commands";

export function Controls({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  return <MotionControls puppet={puppet} motion={motion} frame={frame} valueAt={valuesAt} key_={key} />;
}

export function JointValues({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const joint = useWorkshop((w) => w.joint);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const tried = useWorkshop((w) => w.pose?.tried);
  useWorkshop((w) => w.spacing);
  if (!joint)
    return (
      <div className="card-sheet">
        <p className="hint mt-0 mb-0">
          Pull a piece on the stage: it turns about its pin, and what hangs on it follows. Each pull makes a key at
          frame {frame + 1}.
        </p>
      </div>
    );
  if (frame < 0) return null;
  const name = joint === ROOT ? puppet.name : (puppet.joints?.[joint]?.name ?? "");
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
      <JointFields value={value} put={put} mark={mark} />
    </div>
  );
}
