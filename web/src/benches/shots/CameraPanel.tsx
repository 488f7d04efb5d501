/** Details of the camera, of keys, and of what is heard. */
import { EASES } from "../../sheet/eases";
import { submit, useWorkshop } from "../../session";
import { Fold } from "../../ui/Fold";
import { NumberRow, SwitchRow } from "../../ui/fields";
import type { HeardSound, Shake, Shot } from "../../wire/types";
import { keyAt, valueNow } from "./commands";
import { Select } from "../../ui/Select";

export function CameraPanel({ shot }: { shot: Shot }) {
  useWorkshop((w) => w.shotPlan);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const [x, y] = valueNow(null, "move");
  const [zoom] = valueNow(null, "scale");
  const [turn] = valueNow(null, "turn");
  const shake = shot.camera?.shake ?? null;
  const shaking = (given: Partial<Shake>) => void submit({ do: "set-shake", shot: shot.id, shake: given });
  return (
    <>
      <Fold title="Camera" note={frame >= 0 ? `frame ${frame + 1}` : undefined}>
        <p className="hint mt-0">
          What is entered here is keyed at the frame that shows. Or pull its frame on the whole stage.
        </p>
        <div className="fields">
          <NumberRow
            id="a-x"
            label="Across"
            value={x!}
            unit="units"
            always
            onCommit={(v) => void keyAt(null, { move: [v, null] })}
          />
          <NumberRow
            id="a-y"
            label="Down"
            value={y!}
            unit="units"
            always
            onCommit={(v) => void keyAt(null, { move: [null, v] })}
          />
          <NumberRow
            id="a-zoom"
            label="Zoom"
            of="scale.typed"
            times={100}
            value={zoom!}
            unit="%"
            always
            onCommit={(v) => void keyAt(null, { scale: [v, v] })}
          />
          <NumberRow
            id="a-turn"
            label="Turn"
            value={turn!}
            unit="°"
            always
            onCommit={(v) => void keyAt(null, { turn: [v] })}
          />
        </div>
      </Fold>
      <Fold title="Shake" open={shake !== null} note={shake ? undefined : "held still"}>
        <div className="fields">
          <SwitchRow
            id="h-on"
            label="Camera"
            text="is not held still"
            checked={shake !== null}
            onChange={(on) => void submit({ do: "set-shake", shot: shot.id, shake: on ? {} : null })}
          />
          {shake && (
            <>
              <NumberRow
                id="h-size"
                label="Moves"
                of="Shake.size"
                value={shake.size}
                unit="± units"
                onCommit={(size) => shaking({ size })}
              />
              <NumberRow
                id="h-turn"
                label="Turns"
                of="Shake.turn"
                value={shake.turn}
                unit="± °"
                digits={2}
                onCommit={(turn) => shaking({ turn })}
              />
              <NumberRow
                id="h-times"
                label="How often"
                of="Shake.times"
                value={shake.times}
                unit="a second"
                onCommit={(times) => shaking({ times })}
              />
              <NumberRow
                id="h-start"
                label="From"
                of="Shake.start"
                value={shake.start}
                onCommit={(v) => shaking({ start: v })}
              />
              <NumberRow
                id="h-frames"
                label="Lasts"
                of="Shake.frames"
                value={shake.frames ?? shot.length - shake.start}
                onCommit={(v) => shaking({ frames: v })}
              />
              <NumberRow
                id="h-fade"
                label="Comes, goes"
                of="Shake.fade"
                value={shake.fade}
                onCommit={(v) => shaking({ fade: v })}
              />
              <NumberRow
                id="h-seed"
                label="Chance"
                of="Shake.seed"
                value={shake.seed}
                onCommit={(v) => shaking({ seed: v })}
              />
            </>
          )}
        </div>
        {shake && <p className="hint">It shows in the final pass.</p>}
      </Fold>
    </>
  );
}

/** The selected keys of the shot: how they go on to the next. */
export function KeysPanel({ shot }: { shot: Shot }) {
  const keys = useWorkshop((w) => w.shotKeys);
  if (!keys.length) return null;
  const paths = keys.some((k) => k.channel.endsWith(".move"));
  return (
    <div className="card-sheet p-2 px-3">
      <div className="fields">
        <label htmlFor="e-ease">From this key on</label>
        <Select
          id="e-ease"
          size="sm"
          value=""
          onChange={(e) => {
            const found = EASES.find((x) => x.name === e.target.value);
            if (found) void submit({ do: "ease-shot-gaps", shot: shot.id, keys, ease: found.value });
          }}
        >
          <option value="">Choose an ease…</option>
          {EASES.map((e) => (
            <option key={e.name} value={e.name}>
              {e.name}: {e.tip}
            </option>
          ))}
        </Select>
        {paths && (
          <>
            <span className="faint">Path</span>
            <span className="d-flex gap-1">
              {[true, false].map((smooth) => (
                <button
                  key={String(smooth)}
                  type="button"
                  className="icon-btn"
                  onClick={() => void submit({ do: "ease-shot-gaps", shot: shot.id, keys, smooth })}
                >
                  {smooth ? "curve" : "corner"}
                </button>
              ))}
            </span>
          </>
        )}
      </div>
    </div>
  );
}

export function SoundPanel({ shot, sound }: { shot: Shot; sound: HeardSound }) {
  const name = useWorkshop((w) => {
    const voice = w.documents[sound.voice];
    return voice?.kind === "voice" ? voice.name : "Sound";
  });
  const put = (given: Partial<HeardSound>) =>
    void submit({ do: "place-heard", shot: shot.id, sound: { id: sound.id, ...given } });
  return (
    <Fold title={name}>
      <div className="fields">
        <NumberRow
          id="o-at"
          label="Begins"
          of="Heard.at"
          value={sound.at}
          unit="s"
          digits={3}
          onCommit={(at) => put({ at })}
        />
        <NumberRow
          id="o-level"
          label="Level"
          of="Heard.level"
          value={sound.level}
          unit="dB"
          onCommit={(level) => put({ level })}
        />
        <NumberRow
          id="o-in"
          label="Fade in"
          of="Heard.fade_in"
          value={sound.fade_in}
          unit="s"
          digits={2}
          onCommit={(v) => put({ fade_in: v })}
        />
        <NumberRow
          id="o-out"
          label="Fade out"
          of="Heard.fade_out"
          value={sound.fade_out}
          unit="s"
          digits={2}
          onCommit={(v) => put({ fade_out: v })}
        />
        <NumberRow id="o-row" label="Row" of="Heard.row" plus={1} value={sound.row} onCommit={(v) => put({ row: v })} />
        <SwitchRow id="o-mute" label="Mute" text="not heard" checked={sound.mute} onChange={(mute) => put({ mute })} />
      </div>
    </Fold>
  );
}
