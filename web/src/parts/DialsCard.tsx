/** Dials: named controls that drive joints and drawings through stops. On the Rig bench they are made and tried. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Dial, Puppet } from "../wire/types";
import { freshId, get, putBack, submit, tryPose, useWorkshop } from "../session";
import { trier } from "../stage/tool";
import { IconButton } from "../ui/bits";
import { NumberField, TextField } from "../ui/fields";
import { BlinkForm } from "./BlinkForm";
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
  const [blinking, setBlinking] = useState(false);
  const told = useWorkshop((w) => (w.rig?.puppet === puppet.id ? w.rig.blinks : undefined)) ?? {};
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
          <NumberField
            id={`dial-at-${d.id}`}
            label={`${d.name} at`}
            value={at[d.id] ?? d.rest}
            digits={2}
            min={d.low}
            max={d.high}
            always
            onCommit={(v) => turn(d, v)}
          />
        </div>
      ))}
      {dial && (
        <DialSettings
          key={dial.id}
          puppet={puppet}
          dial={dial}
          at={at[dial.id] ?? dial.rest}
          back={() => setAt((b) => ({ ...b, [dial.id]: dial.rest }))}
          turn={(value) => turn(dial, value)}
        />
      )}
      {blinking ? (
        <BlinkForm
          puppet={puppet}
          told={told}
          done={(made) => {
            setBlinking(false);
            if (made) setChosen(made);
          }}
        />
      ) : (
        <div className="d-flex gap-1 mt-1">
          <Button size="sm" variant="outline-primary" onClick={add}>
            New dial
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => setBlinking(true)}>
            A blink…
          </Button>
        </div>
      )}
    </Fold>
  );
}

interface SettingsProps {
  puppet: Puppet;
  dial: Dial;
  at: number;
  back: () => void;
  turn: (value: number) => void;
}

function DialSettings({ puppet, dial, at, back, turn }: SettingsProps) {
  const put = (given: Partial<Dial>) =>
    void submit({ do: "set-dial", puppet: puppet.id, dial: { id: dial.id, ...given } });
  const stops = dial.stops ?? [];
  const selected = get().pieces.flatMap((id) => puppet.pieces?.[id] ?? []);
  const drawn = selected.find((p) => p.drawings.length > 1);
  /** Keep what is tried just now, and more that is told of selected pieces, at this place of the dial. */
  const keep = (more: Record<string, number[]> = {}) => {
    const tried = { ...get().pose?.tried, ...more };
    void submit({ do: "keep-stop", puppet: puppet.id, dial: dial.id, at, tried });
    putBack();
    back();
  };
  return (
    <div className="mt-1 mb-2">
      <TextField label="Name of the dial" value={dial.name} needed onCommit={(name) => put({ name })} />
      <div className="fields mt-1">
        <label htmlFor="dial-low">From</label>
        <NumberField id="dial-low" of="Dial.low" value={dial.low} max={dial.rest} onCommit={(low) => put({ low })} />
        <label htmlFor="dial-rest">At rest</label>
        <NumberField
          id="dial-rest"
          of="Dial.rest"
          value={dial.rest}
          min={dial.low}
          max={dial.high}
          onCommit={(rest) => put({ rest })}
        />
        <label htmlFor="dial-high">To</label>
        <NumberField
          id="dial-high"
          of="Dial.high"
          value={dial.high}
          min={dial.rest}
          onCommit={(high) => put({ high })}
        />
      </div>
      {stops.length > 0 && (
        <div className="d-flex flex-wrap gap-1 mt-1" role="group" aria-label="Stops">
          {stops.map((s) => (
            <button
              key={s.at}
              type="button"
              className="icon-btn"
              aria-pressed={s.at === at}
              title={`Go to ${s.at}: ${Object.keys(s.values ?? {}).length} threads are held there`}
              onClick={() => turn(s.at)}
            >
              {Number(s.at.toFixed(2))}
            </button>
          ))}
        </div>
      )}
      <p className="hint">
        {stops.length ? "" : "No stops yet. "}Bring the dial to a place, try a pose, and keep it there. Kept at rest, it
        is how the puppet rests from now on.
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
      {selected.length > 0 && (
        <div className="d-flex gap-1 mt-1">
          {([100, 0] as const).map((part) => (
            <Button
              key={part}
              size="sm"
              variant="outline-primary"
              onClick={() => keep(Object.fromEntries(selected.map((p) => [`${p.id}.opacity`, [part]])))}
            >
              {part ? "Show" : "Hide"} {selected.length > 1 ? `${selected.length} pieces` : selected[0]!.name} here
            </Button>
          ))}
        </div>
      )}
      {drawn && (
        <Select
          size="sm"
          className="mt-1"
          aria-label={`Drawing of ${drawn.name} here`}
          value=""
          onChange={(e) => keep({ [`${drawn.id}.show`]: [Number(e.target.value)] })}
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
