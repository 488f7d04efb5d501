/** Details of one of the cast: where it stands, how it is carried, and what it does. */
import { Form } from "react-bootstrap";
import { freshId, get, motionsOf, submit, useWorkshop } from "../../session";
import { AskNumbers } from "../../ui/AskNumbers";
import { Fold } from "../../ui/Fold";
import { ColourField, NumberRow, SwitchRow, TextField } from "../../ui/fields";
import { Menu } from "../../ui/Menu";
import type { CastOf, Copies, Member, Shot, Travel } from "../../wire/types";
import { addSpan, calledOf, keyAt, valueNow } from "./commands";

export function CastPanel({ shot, cast }: { shot: Shot; cast: CastOf }) {
  const put = (given: object) => void submit({ do: "set-cast", shot: shot.id, cast: cast.id, ...given });
  return (
    <Fold title={calledOf(cast)} note={cast.kind === "copies" ? "copies" : undefined}>
      <div className="fields">
        <label htmlFor="c-name">Name</label>
        <TextField id="c-name" value={calledOf(cast)} onCommit={(name) => put({ name })} />
        <NumberRow
          id="c-x"
          label="Across"
          value={cast.at[0]}
          unit="units"
          onCommit={(x) => put({ at: [x, cast.at[1]] })}
        />
        <NumberRow
          id="c-y"
          label="Down"
          value={cast.at[1]}
          unit="units"
          onCommit={(y) => put({ at: [cast.at[0], y] })}
        />
        <NumberRow
          id="c-scale"
          label="Size"
          value={(cast.scale ?? 1) * 100}
          unit="%"
          min={1}
          max={10000}
          onCommit={(v) => put({ scale: v / 100 })}
        />
        {cast.kind === "member" && (
          <NumberRow id="c-turn" label="Turn" value={cast.turn ?? 0} unit="°" onCommit={(turn) => put({ turn })} />
        )}
        <NumberRow
          id="c-share"
          label="Depth"
          value={cast.share ?? 100}
          unit="%"
          digits={0}
          min={0}
          max={1000}
          onCommit={(share) => put({ share })}
        />
        <SwitchRow
          id="c-mirror"
          label="Mirror"
          text="looks the other way"
          checked={cast.mirror ?? false}
          onChange={(mirror) => put({ mirror })}
        />
      </div>
      <p className="hint">
        Depth: how much it shifts with the camera. The stage itself shifts by 100 %, what is far behind by less, what is
        close in front by more.
      </p>
    </Fold>
  );
}

/** Keys of a member's place at the frame that shows. */
export function PlacePanel({ member }: { member: Member }) {
  useWorkshop((w) => w.shotPlan);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const keyed = Object.keys(member.place ?? {}).length > 0;
  const [x, y] = valueNow(member.id, "move");
  const [turn] = valueNow(member.id, "turn");
  const [sx, sy] = valueNow(member.id, "scale");
  const [opacity] = valueNow(member.id, "opacity");
  return (
    <Fold title="Keyed place" open={keyed} note={keyed ? `frame ${frame + 1}` : "no keys"}>
      <p className="hint mt-0">What is entered here is keyed at the frame that shows, on top of where it stands.</p>
      <div className="fields">
        <NumberRow
          id="k-x"
          label="Across"
          value={x!}
          unit="units"
          always
          onCommit={(v) => void keyAt(member.id, { move: [v, y!] })}
        />
        <NumberRow
          id="k-y"
          label="Down"
          value={y!}
          unit="units"
          always
          onCommit={(v) => void keyAt(member.id, { move: [x!, v] })}
        />
        <NumberRow
          id="k-turn"
          label="Turn"
          value={turn!}
          unit="°"
          always
          onCommit={(v) => void keyAt(member.id, { turn: [v] })}
        />
        <NumberRow
          id="k-size"
          label="Size"
          value={Math.sqrt(Math.abs(sx! * sy!)) * 100}
          unit="%"
          always
          min={1}
          max={10000}
          onCommit={(v) => void keyAt(member.id, { scale: [v / 100, v / 100] })}
        />
        <NumberRow
          id="k-opacity"
          label="Opacity"
          value={opacity!}
          unit="%"
          always
          min={0}
          max={100}
          onCommit={(v) => void keyAt(member.id, { opacity: [v] })}
        />
      </div>
    </Fold>
  );
}

/** How a member gets on through the shot. */
export function TravelPanel({ shot, member }: { shot: Shot; member: Member }) {
  const travel = member.travel ?? null;
  const kind = !travel ? "none" : (travel.way ?? []).length > 1 ? "way" : "straight";
  const put = (given: Travel | null) => void submit({ do: "set-cast", shot: shot.id, cast: member.id, travel: given });
  const way = travel?.way ?? [];
  return (
    <Fold title="Travel" note={{ none: "stays", straight: "straight on", way: "along a way" }[kind]}>
      <div className="fields">
        <label htmlFor="t-kind">Its feet</label>
        <Form.Select
          id="t-kind"
          size="sm"
          value={kind}
          onChange={(e) => {
            const to = e.target.value;
            if (to === "none") put(null);
            else if (to === "straight") put({ ...travel, way: [] });
            else put({ ...travel, way: [{ at: [0, 0] }, { at: [member.mirror ? -500 : 500, 0] }] });
          }}
        >
          <option value="none">step on the spot</option>
          <option value="straight">carry it straight on</option>
          <option value="way">carry it along a way</option>
        </Form.Select>
        {kind === "way" && (
          <SwitchRow
            id="t-turning"
            label="Looks"
            text="to where it goes"
            checked={travel?.turning ?? true}
            onChange={(turning) => put({ ...travel, turning })}
          />
        )}
        {kind !== "none" && (
          <NumberRow
            id="t-gone"
            label="Begins"
            value={travel?.gone ?? 0}
            unit="units on"
            onCommit={(gone) => put({ ...travel, gone })}
          />
        )}
      </div>
      {kind === "way" && (
        <>
          <p className="hint">Drag its diamonds on the stage. The points, seen from where it stands:</p>
          <ol className="waypoints">
            {way.map((p, n) => (
              <li key={n}>
                <span>
                  {Math.round(p.at[0])}, {Math.round(p.at[1])}
                </span>
                <button
                  type="button"
                  className="icon-btn quiet"
                  aria-label={`Point ${n + 1}: ${(p.smooth ?? true) ? "gone through in a curve" : "a corner"}`}
                  aria-pressed={p.smooth ?? true}
                  onClick={() =>
                    put({ ...travel, way: way.map((q, k) => (k === n ? { ...q, smooth: !(q.smooth ?? true) } : q)) })
                  }
                >
                  <i className={`bi bi-${(p.smooth ?? true) ? "bezier2" : "slash-lg"}`} aria-hidden="true" />
                </button>
                <button
                  type="button"
                  className="icon-btn quiet"
                  aria-label={`Remove point ${n + 1}`}
                  disabled={way.length <= 2}
                  onClick={() => put({ ...travel, way: way.filter((_, k) => k !== n) })}
                >
                  <i className="bi bi-x-lg" aria-hidden="true" />
                </button>
              </li>
            ))}
          </ol>
          <button
            type="button"
            className="icon-btn"
            onClick={() => {
              const [a, b] = [way.at(-2)!.at, way.at(-1)!.at];
              const next: [number, number] = [2 * b[0] - a[0], 2 * b[1] - a[1]];
              put({ ...travel, way: [...way, { at: next }] });
            }}
          >
            <i className="bi bi-plus-lg" aria-hidden="true" /> Go on to one more point
          </button>
        </>
      )}
    </Fold>
  );
}

/** What a member can do from the frame that shows. */
export function DoesPanel({ member }: { member: Member }) {
  const documents = useWorkshop((w) => w.documents);
  const motions = motionsOf(documents, member.puppet);
  if (!motions.length) return null;
  return (
    <div className="card-sheet add-panel">
      <span className="heading">Do from here</span>
      <Menu
        label="Let it do a motion from the frame that shows"
        align="end"
        entries={motions.map((m) => ({
          key: m.id,
          text: `${m.name}${m.cycle ? ", round and round" : ""}`,
          run: () => void addSpan(member, m.id),
        }))}
      >
        <i className="bi bi-plus-lg" aria-hidden="true" /> Motion
      </Menu>
    </div>
  );
}

export function CopiesPanel({ shot, copies }: { shot: Shot; copies: Copies }) {
  const documents = useWorkshop((w) => w.documents);
  const motions = motionsOf(documents, copies.puppet);
  const put = (given: object) => void submit({ do: "set-copies", shot: shot.id, cast: copies.id, ...given });
  const spread = copies.spread ?? [200, 60];
  return (
    <Fold title="Copies">
      <div className="fields">
        <label htmlFor="x-motion">Each does</label>
        <Form.Select
          id="x-motion"
          size="sm"
          value={copies.motion ?? ""}
          onChange={(e) => put({ motion: e.target.value })}
        >
          {!copies.motion && <option value="">nothing</option>}
          {motions.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </Form.Select>
        <label htmlFor="x-on">Go along</label>
        <Form.Select
          id="x-on"
          size="sm"
          value={copies.along ?? ""}
          onChange={(e) => put({ along: e.target.value || null })}
        >
          <option value="">with nobody</option>
          {Object.values(shot.cast ?? {}).map((c) =>
            c.kind === "member" ? (
              <option key={c.id} value={c.id}>
                with {calledOf(c)}
              </option>
            ) : null,
          )}
        </Form.Select>
        <NumberRow
          id="x-count"
          label="How many"
          value={copies.count ?? 8}
          unit=""
          digits={0}
          min={1}
          max={400}
          onCommit={(v) => put({ count: Math.round(v) })}
        />
        <NumberRow
          id="x-wide"
          label="Across"
          value={spread[0]}
          unit="units"
          onCommit={(v) => put({ spread: [v, spread[1]] })}
        />
        <NumberRow
          id="x-high"
          label="Down"
          value={spread[1]}
          unit="units"
          onCommit={(v) => put({ spread: [spread[0], v] })}
        />
        <NumberRow
          id="x-size"
          label="Size by"
          value={copies.size ?? 25}
          unit="± %"
          min={0}
          max={100}
          onCommit={(size) => put({ size })}
        />
        <NumberRow
          id="x-turn"
          label="Turn by"
          value={copies.turn ?? 0}
          unit="± °"
          min={0}
          max={180}
          onCommit={(turn) => put({ turn })}
        />
        <NumberRow
          id="x-opacity"
          label="Opacity by"
          value={copies.opacity ?? 20}
          unit="− %"
          min={0}
          max={100}
          onCommit={(opacity) => put({ opacity })}
        />
        <span className="faint">Tint</span>
        <ColourField label="Tint" value={copies.tint ?? "#ffffffff"} onCommit={(tint) => put({ tint })} />
        <NumberRow
          id="x-tinted"
          label="Tinted"
          value={copies.tinted ?? 0}
          unit="up to %"
          min={0}
          max={100}
          onCommit={(tinted) => put({ tinted })}
        />
        <NumberRow
          id="x-in"
          label="Fade in"
          value={copies.fade_in ?? 10}
          unit="% of loop"
          min={0}
          max={100}
          onCommit={(v) => put({ fade_in: v })}
        />
        <NumberRow
          id="x-out"
          label="Fade out"
          value={copies.fade_out ?? 25}
          unit="% of loop"
          min={0}
          max={100}
          onCommit={(v) => put({ fade_out: v })}
        />
        <NumberRow
          id="x-seed"
          label="Chance"
          value={copies.seed ?? 1}
          unit=""
          digits={0}
          min={0}
          max={2 ** 31 - 1}
          onCommit={(v) => put({ seed: Math.round(v) })}
        />
      </div>
      <p className="hint">
        They come one after the other, spread evenly over the loop, so that it always loops. Before the final pass they
        stand as they begin.
      </p>
    </Fold>
  );
}

/** Asks in how many steps a walk is to go how far. */
export function AskSteps({ cast, span, close }: { cast: string; span: string; close: () => void }) {
  return (
    <AskNumbers
      title="Fit the steps to the way"
      text="So that it arrives at the end of its way with its last step. The stride gives way a little; nought steps: as many as suit its stride."
      fields={[{ key: "n", label: "Steps", unit: "", value: 4, min: 0, max: 200, digits: 0 }]}
      button="Fit"
      done={({ n }) => {
        const shot = get().shot;
        if (!shot) return;
        const id = freshId();
        const steps = n! > 0 ? Math.round(n!) : undefined;
        void submit({ do: "fit-steps", shot, cast, span, steps, id });
      }}
      close={close}
    />
  );
}
