/** A turnaround: the views of a puppet on one dial, each with its drawings, places and what is seen. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { caughtUp, freshId, putBack, submit, tryPose, useWorkshop } from "../../session";
import { trier } from "../../stage/tool";
import { IconButton } from "../../ui/bits";
import { TrySlider } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import type { Dial, Puppet } from "../../wire/types";
import { InThisView } from "./InThisView";
import { ViewFields } from "./ViewFields";
import { ViewStrip } from "./ViewStrip";
import { Select } from "../../ui/Select";

const slider = trier((tried) => tryPose(0, tried));

export function TurnCard({ puppet }: { puppet: Puppet }) {
  const dial = Object.values(puppet.dials ?? {}).find((d) => d.turns);
  const named = useWorkshop((w) => (w.rig?.puppet === puppet.id ? w.rig.named_views : undefined)) ?? [];
  if (dial) return <Views puppet={puppet} dial={dial} named={named} />;
  return (
    <Fold title="Turn" note="one view" open={named.length > 0}>
      <p className="hint mt-0">
        Seen from several sides, a puppet has a view for each: drawings, places of joints, what is in front and what is
        seen. One dial turns it through them.
      </p>
      <div className="d-flex flex-wrap gap-1">
        <ByName puppet={puppet} dial={null} named={named} />
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => void submit({ do: "add-turnaround", puppet: puppet.id, id: freshId() })}
        >
          Let it be turned
        </Button>
      </div>
    </Fold>
  );
}

/** Pieces that are named by views become views; where none are, there is nothing to press. */
function ByName({ puppet, dial, named }: { puppet: Puppet; dial: Dial | null; named: readonly string[] }) {
  if (!named.length) return null;
  return (
    <Button
      size="sm"
      variant={dial ? "outline-primary" : "primary"}
      title="Pieces called “head front”, “head side” and so on become one piece, each drawing seen in its view"
      onClick={() => void submit({ do: "gather-views", puppet: puppet.id, dial: dial?.id ?? freshId() })}
    >
      Make views by name: {named.join(", ")}
    </Button>
  );
}

function Views({ puppet, dial, named }: { puppet: Puppet; dial: Dial; named: readonly string[] }) {
  const views = dial.stops ?? [];
  const [at, setAt] = useState(0);
  const channel = `${dial.id}.dial`;
  const tried = useWorkshop((w) => w.pose?.tried);
  const turning = useWorkshop((w) => (w.rig?.puppet === puppet.id ? w.rig.turn : null));
  const view = views.find((v) => v.at === at);
  const whole = turning?.views.find((v) => v.at === at);
  const turn = (value: number) => {
    setAt(value);
    putBack();
    if (value) slider(channel, [value]);
  };
  const slide = (value: number) => {
    setAt(value);
    slider(channel, [value]);
  };
  const base = { puppet: puppet.id, dial: dial.id };
  const own = Object.fromEntries(Object.entries(tried ?? {}).filter(([id]) => id !== channel));
  /** Go on looking at the view after something of it changed. */
  const again = async () => {
    await caughtUp();
    putBack();
    if (at) slider(channel, [at]);
  };
  const keep = async (more: Record<string, number[]>) => {
    if (view && (await submit({ do: "keep-view", ...base, at: view.at, tried: more }))) void again();
  };
  return (
    <Fold title="Turn" note={`${views.length} views`}>
      <ViewStrip puppet={puppet} dial={dial} at={at} choose={turn} />
      <div className="dial mt-1">
        <span className="name">{dial.name}</span>
        <TrySlider
          label={`Try ${dial.name}`}
          said={`${Math.round(at)} degrees`}
          of="turn.round"
          value={at}
          onSlide={slide}
        />
        <span className="faint small">{Math.round(at)}°</span>
      </div>
      <div className="fields mt-1">
        <label htmlFor="turn-between">Between views</label>
        <Select
          id="turn-between"
          size="sm"
          value={dial.between}
          onChange={(e) =>
            void submit({
              do: "set-dial",
              puppet: puppet.id,
              dial: { id: dial.id, between: e.target.value as "hold" | "morph" },
            })
          }
        >
          <option value="hold">held</option>
          <option value="morph">morph</option>
        </Select>
      </div>
      {view && <ViewFields key={view.at} view={view} whole={whole} base={base} moved={setAt} />}
      {view && whole && (
        <InThisView
          puppet={puppet}
          view={view}
          whole={whole}
          base={base}
          keep={(more) => void keep({ ...own, ...more })}
          again={again}
        />
      )}
      {view && view.at > 0 && (
        <Button size="sm" className="w-100 mt-2" disabled={!Object.keys(own).length} onClick={() => void keep(own)}>
          Keep what is tried in {view.name || "this view"}
        </Button>
      )}
      {view && view.at === 0 && (
        <p className="hint mb-0">
          The first view is how the puppet is rigged. Choose another to pose it as it is seen there.
        </p>
      )}
      {!view && <p className="hint mb-0">Choose a view to change it.</p>}
      <div className="d-flex flex-wrap gap-1 mt-2">
        <Button size="sm" variant="outline-primary" onClick={() => void submit({ do: "add-view", ...base })}>
          Add a view
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          disabled={!turning?.to_flip}
          title="Every view between front and back once more, in the mirror; later changes go along"
          onClick={() => void submit({ do: "flip-views", ...base })}
        >
          Make the second half
        </Button>
        <ByName puppet={puppet} dial={dial} named={named} />
        {view && view.at > 0 && (
          <IconButton
            quiet
            icon="trash"
            label={`Remove the view ${view.name}`}
            onClick={() => {
              turn(0);
              void submit({ do: "remove-view", ...base, at: view.at });
            }}
          />
        )}
      </div>
    </Fold>
  );
}
