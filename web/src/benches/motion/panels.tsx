/** What the Motion bench says of the motion and of the selected joint. */
import { useState } from "react";
import { Form } from "react-bootstrap";
import { JointFields } from "../../parts/JointFields";
import { MotionControls } from "../../parts/MotionControls";
import { ViewPicker } from "../../parts/turn/ViewPicker";
import { AskName } from "../../ui/AskName";
import { motionsOf, set, submit, useWorkshop } from "../../session";
import { NumberField } from "../../ui/fields";
import { Menu } from "../../ui/Menu";
import { ROOT, type ChannelKind, type Motion, type Puppet } from "../../wire/types";
import { addMotion, key, valuesAt } from "./commands";

export function MotionPanel({ puppet, motion }: { puppet: Puppet; motion: Motion | undefined }) {
  const documents = useWorkshop((w) => w.documents);
  const [asking, setAsking] = useState<"new" | "name" | null>(null);
  return (
    <div className="card-sheet">
      <Menu
        look="heading"
        className="mb-2 bare"
        entries={[
          ...motionsOf(documents, puppet.id).map((m) => ({
            key: m.id,
            chosen: m.id === motion?.id,
            run: () => set({ motion: m.id, frame: 0, keys: [], poses: [], pose: null }),
            text: m.name,
          })),
          "line",
          { text: "New motion…", run: () => setAsking("new") },
          { text: "Motions of another puppet…", run: () => set({ reusing: "motions" }) },
          motion && { text: "Rename…", run: () => setAsking("name") },
          motion && {
            text: `Remove “${motion.name}”`,
            run: () => void submit({ do: "remove-motion", motion: motion.id }),
          },
        ]}
      >
        {motion?.name ?? "No motion"}
      </Menu>
      {motion && (
        <div className="fields">
          <label htmlFor="length">Length</label>
          <NumberField
            id="length"
            of="Motion.length"
            value={motion.length}
            unit="fr"
            onCommit={(v) => void submit({ do: "set-motion", motion: motion.id, length: v })}
          />
          <label htmlFor="cycle">Cycle</label>
          <Form.Check
            id="cycle"
            type="switch"
            label="last leads to first"
            checked={motion.cycle}
            onChange={(e) => void submit({ do: "set-motion", motion: motion.id, cycle: e.target.checked })}
          />
          <ViewPicker
            id="made-for"
            label="Made for"
            puppet={puppet}
            value={motion.seen}
            untold="any view, as it looks"
            onPick={(seen) => void submit({ do: "set-motion", motion: motion.id, seen })}
          />
        </div>
      )}
      {asking && (
        <AskName
          title={asking === "new" ? "New motion" : "Rename motion"}
          start={asking === "name" ? (motion?.name ?? "") : ""}
          close={() => setAsking(null)}
          done={(name) =>
            void (asking === "new"
              ? addMotion(puppet.id, name)
              : submit({ do: "set-motion", motion: motion!.id, name }))
          }
        />
      )}
    </div>
  );
}

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
