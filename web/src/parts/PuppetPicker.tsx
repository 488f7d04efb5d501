/** Which puppet is on the bench, and making, renaming and removing puppets. */
import { useState } from "react";
import { allPuppets, freshId, lookAt, submit, usePuppet, useWorkshop, see } from "../session";
import { AskName } from "../ui/AskName";
import { Menu } from "../ui/Menu";
import { several } from "../ui/text";

export async function addPuppet(name: string): Promise<string | null> {
  const id = freshId();
  const done = await submit({ do: "add-puppet", id, name });
  if (!done) return null;
  lookAt(id);
  return id;
}

export function PuppetPicker() {
  const puppet = usePuppet();
  const documents = useWorkshop((w) => w.documents);
  const [asking, setAsking] = useState<"new" | "name" | null>(null);
  return (
    <>
      <Menu
        look="heading"
        className="card-sheet"
        entries={[
          ...allPuppets(documents).map((p) => ({
            key: p.id,
            chosen: p.id === puppet?.id,
            run: () => lookAt(p.id),
            text: (
              <>
                {p.name}{" "}
                <span className="small opacity-75">{several(Object.keys(p.pieces ?? {}).length, "piece")}</span>
              </>
            ),
          })),
          "line",
          { text: "New puppet…", run: () => setAsking("new") },
          { text: "A puppet from elsewhere…", run: () => see({ reusing: "bring" }) },
          puppet && { text: `Rename “${puppet.name}”…`, run: () => setAsking("name") },
          puppet && {
            text: `Remove “${puppet.name}” with its motions`,
            run: () => void submit({ do: "remove-puppet", puppet: puppet.id }),
          },
        ]}
      >
        {puppet?.name ?? "No puppet yet"}
      </Menu>
      {asking && (
        <AskName
          title={asking === "new" ? "New puppet" : "Rename puppet"}
          start={asking === "name" ? (puppet?.name ?? "") : ""}
          close={() => setAsking(null)}
          done={(name) =>
            void (asking === "new" ? addPuppet(name) : submit({ do: "set-puppet", puppet: puppet!.id, name }))
          }
        />
      )}
    </>
  );
}
