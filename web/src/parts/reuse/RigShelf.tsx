/** The card of the shelf of rigs: putting this rig there, and taking one from there for this art. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { notify, shelveRig, tell, see } from "../../session";
import { AskName } from "../../ui/AskName";
import { Fold } from "../../ui/Fold";
import type { Puppet } from "../../wire/types";

export function RigShelf({ puppet }: { puppet: Puppet }) {
  const [naming, setNaming] = useState(false);
  const rigged = Object.values(puppet.joints ?? {}).some((j) => j.parent);
  return (
    <Fold title="Shelf of rigs">
      <div className="d-flex flex-wrap gap-2">
        <Button size="sm" variant="outline-primary" onClick={() => see({ reusing: "rig" })}>
          Put a rig on this art…
        </Button>
        <Button size="sm" variant="outline-primary" disabled={!rigged} onClick={() => setNaming(true)}>
          Put this rig on the shelf…
        </Button>
      </div>
      {naming && (
        <AskName
          title="Put this rig on the shelf"
          label="What it is called there"
          button="Put it there"
          start={puppet.name}
          close={() => setNaming(false)}
          done={(name) =>
            void shelveRig(puppet.id, name).then(
              (kept) =>
                notify(
                  true,
                  kept.rig.name,
                  "It is on the shelf, with its motions, for this and every other production.",
                ),
              tell,
            )
          }
        />
      )}
    </Fold>
  );
}
