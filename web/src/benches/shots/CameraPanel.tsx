/** Details of the camera, of keys, and of what is heard. */
import { submit, useWorkshop } from "../../session";
import { Fold } from "../../ui/Fold";
import { NumberRow, SwitchRow } from "../../ui/fields";
import type { Ease, HeardSound, Shake, Shot } from "../../wire/types";
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
            value={zoom! * 100}
            unit="%"
            always
            min={2}
            max={5000}
            onCommit={(v) => void keyAt(null, { scale: [v / 100, v / 100] })}
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
                value={shake.size ?? 6}
                unit="± units"
                min={0}
                max={500}
                onCommit={(size) => shaking({ size })}
              />
              <NumberRow
                id="h-turn"
                label="Turns"
                value={shake.turn ?? 0.4}
                unit="± °"
                digits={2}
                min={0}
                max={45}
                onCommit={(turn) => shaking({ turn })}
              />
              <NumberRow
                id="h-times"
                label="How often"
                value={shake.times ?? 3}
                unit="a second"
                min={0.1}
                max={12}
                onCommit={(times) => shaking({ times })}
              />
              <NumberRow
                id="h-start"
                label="From"
                value={(shake.start ?? 0) + 1}
                unit="frame"
                digits={0}
                min={1}
                max={20000}
                onCommit={(v) => shaking({ start: Math.round(v) - 1 })}
              />
              <NumberRow
                id="h-frames"
                label="Lasts"
                value={shake.frames ?? (shot.length ?? 72) - (shake.start ?? 0)}
                unit="frames"
                digits={0}
                min={1}
                max={20000}
                onCommit={(v) => shaking({ frames: Math.round(v) })}
              />
              <NumberRow
                id="h-fade"
                label="Comes, goes"
                value={shake.fade ?? 6}
                unit="frames"
                digits={0}
                min={0}
                max={240}
                onCommit={(v) => shaking({ fade: Math.round(v) })}
              />
              <NumberRow
                id="h-seed"
                label="Chance"
                value={shake.seed ?? 1}
                unit=""
                digits={0}
                min={0}
                max={2 ** 31 - 1}
                onCommit={(v) => shaking({ seed: Math.round(v) })}
              />
            </>
          )}
        </div>
        {shake && <p className="hint">It shows in the final pass.</p>}
      </Fold>
    </>
  );
}

const EASES: { id: string; name: string; ease: Ease }[] = [
  { id: "both", name: "slow out and in", ease: { kind: "slow", out: 50, into: 50 } },
  { id: "out", name: "slow out", ease: { kind: "slow", out: 60, into: 0 } },
  { id: "in", name: "slow in", ease: { kind: "slow", out: 0, into: 60 } },
  { id: "even", name: "even", ease: { kind: "even" } },
  { id: "hold", name: "held until the next", ease: { kind: "hold" } },
];

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
            const found = EASES.find((x) => x.id === e.target.value);
            if (found) void submit({ do: "ease-shot-gaps", shot: shot.id, keys, ease: found.ease });
          }}
        >
          <option value="">Choose an ease…</option>
          {EASES.map((e) => (
            <option key={e.id} value={e.id}>
              {e.name}
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
        <NumberRow id="o-at" label="Begins" value={sound.at ?? 0} unit="s" digits={3} onCommit={(at) => put({ at })} />
        <NumberRow
          id="o-level"
          label="Level"
          value={sound.level ?? 0}
          unit="dB"
          min={-60}
          max={12}
          onCommit={(level) => put({ level })}
        />
        <NumberRow
          id="o-in"
          label="Fade in"
          value={sound.fade_in ?? 0}
          unit="s"
          digits={2}
          min={0}
          max={60}
          onCommit={(v) => put({ fade_in: v })}
        />
        <NumberRow
          id="o-out"
          label="Fade out"
          value={sound.fade_out ?? 0}
          unit="s"
          digits={2}
          min={0}
          max={60}
          onCommit={(v) => put({ fade_out: v })}
        />
        <NumberRow
          id="o-row"
          label="Row"
          value={(sound.row ?? 0) + 1}
          unit=""
          digits={0}
          min={1}
          max={10}
          onCommit={(v) => put({ row: Math.round(v) - 1 })}
        />
        <SwitchRow
          id="o-mute"
          label="Mute"
          text="not heard"
          checked={sound.mute ?? false}
          onChange={(mute) => put({ mute })}
        />
      </div>
    </Fold>
  );
}
