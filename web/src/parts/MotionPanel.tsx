/** Which motion of a puppet is worked on, how long it is, and whether it is a cycle. */
import { useState } from "react";
import { Form } from "react-bootstrap";
import { freshId, motionsOf, submit, useWorkshop, turnTo, see } from "../session";
import { AskName } from "../ui/AskName";
import { NumberField } from "../ui/fields";
import { Menu } from "../ui/Menu";
import type { Motion, Puppet } from "../wire/types";
import { ViewPicker } from "./turn/ViewPicker";

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
            run: () => turnTo({ motion: m.id, frame: 0, keys: [], poses: [], pose: null }),
            text: m.name,
          })),
          "line",
          { text: "New motion…", run: () => setAsking("new") },
          { text: "Motions of another puppet…", run: () => see({ reusing: "motions" }) },
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

/** A new motion of a puppet, to be worked on. */
export async function addMotion(puppet: string, name: string): Promise<void> {
  const id = freshId();
  if (await submit({ do: "add-motion", id, puppet, name })) turnTo({ motion: id, frame: 0, keys: [] });
}
