/** Dials: named controls that drive joints and drawings through stops. On the Rig bench they are made and tried. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Dial, Puppet } from "../wire/types";
import { freshId, get, putBack, submit, tryPose } from "../session";
import { trier } from "../stage/tool";
import { IconButton } from "../ui/bits";
import { NumberField, TextField } from "../ui/fields";
import { rangeOf } from "./dials";
import { TrySlider } from "../ui/fields";
import { Fold } from "../ui/Fold";
import { Select } from "../ui/Select";

const slider = trier((tried) => tryPose(0, tried));
const channel = (dial: Dial) => `${dial.id}.dial`;

export function DialsCard({ puppet }: { puppet: Puppet }) {
  // What turns the puppet has a card of its own.
  const dials = Object.values(puppet.dials ?? {}).filter((d) => !d.turns);
  const [chosen, setChosen] = useState<string | null>(null);
  const [at, setAt] = useState<Record<string, number>>({});
  const dial = dials.find((d) => d.id === chosen);
  const add = () => {
    const id = freshId();
    void submit({
      do: "set-dial",
      puppet: puppet.id,
      dial: { id, name: `dial ${dials.length + 1}`, low: 0, high: 100, rest: 0, stops: [] },
    }).then((done) => done && setChosen(id));
  };
  const turn = (d: Dial, value: number) => {
    setAt((before) => ({ ...before, [d.id]: value }));
    slider(channel(d), [value]);
  };
  return (
    <Fold title="Dials" note={dials.length ? `${dials.length}` : "none"} open={dials.length > 0}>
      {dials.map((d) => (
        <div key={d.id} className={`dial${d.id === chosen ? " chosen" : ""}`}>
          <button type="button" className="name" onClick={() => setChosen(d.id === chosen ? null : d.id)}>
            {d.name}
          </button>
          <TrySlider label={`Try ${d.name}`} {...rangeOf(d)} value={at[d.id] ?? d.rest} onSlide={(v) => turn(d, v)} />
          <span className="faint small">{Math.round((at[d.id] ?? d.rest) * 10) / 10}</span>
        </div>
      ))}
      {dial && (
        <DialSettings
          key={dial.id}
          puppet={puppet}
          dial={dial}
          at={at[dial.id] ?? dial.rest}
          back={() => setAt((b) => ({ ...b, [dial.id]: dial.rest }))}
        />
      )}
      <Button size="sm" variant="outline-primary" className="mt-1" onClick={add}>
        New dial
      </Button>
    </Fold>
  );
}

function DialSettings({ puppet, dial, at, back }: { puppet: Puppet; dial: Dial; at: number; back: () => void }) {
  const put = (given: Partial<Dial>) =>
    void submit({ do: "set-dial", puppet: puppet.id, dial: { id: dial.id, ...given } });
  const stops = dial.stops ?? [];
  const drawn = get()
    .pieces.map((id) => puppet.pieces?.[id])
    .find((p) => p && p.drawings.length > 1);
  /** Keep what is tried just now, and the drawing that the selected piece shows, at this place of the dial. */
  const keep = (drawing?: number) => {
    const show = drawn && drawing !== undefined ? { [`${drawn.id}.show`]: [drawing] } : {};
    const tried = { ...get().pose?.tried, ...show };
    void submit({ do: "keep-stop", puppet: puppet.id, dial: dial.id, at, tried });
    putBack();
    back();
  };
  return (
    <div className="mt-1 mb-2">
      <TextField label="Name of the dial" value={dial.name} needed onCommit={(name) => put({ name })} />
      <div className="pair mt-1">
        <NumberField
          id="dial-low"
          label="From"
          of="Dial.low"
          value={dial.low}
          max={dial.rest}
          onCommit={(low) => put({ low })}
        />
        <NumberField
          id="dial-rest"
          label="At rest"
          of="Dial.rest"
          value={dial.rest}
          min={dial.low}
          max={dial.high}
          onCommit={(rest) => put({ rest })}
        />
        <NumberField
          id="dial-high"
          label="To"
          of="Dial.high"
          value={dial.high}
          min={dial.rest}
          onCommit={(high) => put({ high })}
        />
      </div>
      <p className="hint">
        {stops.length ? `Stops at ${stops.map((s) => Math.round(s.at * 10) / 10).join(", ")}.` : "No stops yet."} Slide
        the dial, try a pose, and keep it there.
      </p>
      <div className="d-flex gap-1">
        <Button size="sm" onClick={() => keep()}>
          Keep this pose here
        </Button>
        {stops.length > 0 && (
          <IconButton
            quiet
            icon="eraser"
            label="Take the nearest stop away"
            onClick={() => void submit({ do: "remove-stop", puppet: puppet.id, dial: dial.id, at })}
          />
        )}
        <IconButton
          quiet
          icon="trash"
          label={`Remove the dial ${dial.name}`}
          onClick={() => void submit({ do: "remove-dial", puppet: puppet.id, dial: dial.id })}
        />
      </div>
      {drawn && (
        <Select
          size="sm"
          className="mt-1"
          aria-label={`Drawing of ${drawn.name} here`}
          value=""
          onChange={(e) => keep(Number(e.target.value))}
        >
          <option value="">{drawn.name} shows here…</option>
          {drawn.drawings.map((d) => (
            <option key={d.id} value={d.number}>
              {d.name}
            </option>
          ))}
        </Select>
      )}
    </div>
  );
}
