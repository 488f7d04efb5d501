/** The buttons over the rows of a shot. */
import { useState } from "react";
import { submit, useWorkshop, see } from "../../session";
import type { Timeline } from "../../sheet/timeline";
import { SpeedMenu, Transport, ZoomButtons } from "../../sheet/Transport";
import { AskNumbers } from "../../ui/AskNumbers";
import { mostOf } from "../../ui/numbers";
import { IconButton } from "../../ui/bits";
import { Menu } from "../../ui/Menu";
import type { Shot } from "../../wire/types";
import { keyPicked, removePicked, splitSpan } from "./commands";

export function RowsBar({ shot, time }: { shot: Shot; time: Timeline }) {
  const picked = useWorkshop((w) => w.picked);
  const keys = useWorkshop((w) => w.shotKeys);
  const frame = useWorkshop((w) => (w.playing ? 0 : w.frame));
  const [asking, setAsking] = useState<"in" | "out" | "length" | null>(null);
  const range = useWorkshop((w) => w.range);
  const id = shot.id;
  const length = shot.length;
  return (
    <div className="sheet-bar">
      <Transport length={length} />
      <SpeedMenu />
      <span className="divider" />
      <IconButton
        icon="key"
        label="Key what is picked where it is: the camera, or somebody's place"
        keys="k"
        disabled={picked?.kind !== "camera" && picked?.kind !== "cast" && picked?.kind !== "span"}
        onClick={() => keyPicked()}
      />
      <IconButton
        icon="scissors"
        label="Cut the picked span in two at the frame that shows"
        keys="/"
        disabled={picked?.kind !== "span"}
        onClick={() => splitSpan()}
      />
      <IconButton
        icon="trash"
        label="Remove what is picked"
        keys="Delete"
        disabled={!keys.length && (!picked || picked.kind === "camera")}
        onClick={() => removePicked()}
      />
      <span className="divider" />
      <Menu
        label="Time of the shot"
        entries={[
          { text: `Put frames in at frame ${frame + 1}…`, run: () => setAsking("in") },
          { text: `Take frames out from frame ${frame + 1} on…`, run: () => setAsking("out") },
          { text: "Length of the shot…", run: () => setAsking("length") },
          "line",
          {
            text: `Play and render from frame ${frame + 1} on`,
            run: () => void submit({ do: "set-shot", shot: id, first: frame }),
          },
          {
            text: `Play and render up to frame ${frame + 1}`,
            run: () => void submit({ do: "set-shot", shot: id, stop: frame + 1 }),
          },
          {
            text: "Play and render all of it",
            disabled: shot.first == null && shot.stop == null,
            run: () => void submit({ do: "set-shot", shot: id, first: null, stop: null }),
          },
          range !== null && { text: "Play no more round and round", run: () => see({ range: null }) },
        ]}
      >
        Time
      </Menu>
      <span className="flex-grow-1" />
      <ZoomButtons time={time} />
      {asking === "length" ? (
        <AskNumbers
          title="Length of the shot"
          fields={[{ key: "n", label: "Length", of: "Shot.length", unit: "frames", value: length }]}
          button="Set"
          done={({ n }) => void submit({ do: "set-shot-length", shot: id, length: n! })}
          close={() => setAsking(null)}
        />
      ) : asking ? (
        <AskNumbers
          title={asking === "in" ? "Put time in" : "Take time out"}
          text="Across everything in the shot: spans, keys, the camera and what is heard."
          fields={[
            {
              key: "n",
              label: "Frames",
              of: "Shot.length",
              value: 12,
              max: asking === "in" ? mostOf("Shot.length") - length : Math.max(1, Math.min(length - frame, length - 1)),
            },
          ]}
          button={asking === "in" ? "Put in" : "Take out"}
          done={({ n }) =>
            void submit({
              do: "insert-shot-time",
              shot: id,
              at: frame,
              frames: asking === "in" ? n! : -n!,
            })
          }
          close={() => setAsking(null)}
        />
      ) : null}
    </div>
  );
}
