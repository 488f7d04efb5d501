/** How one of the cast is carried by its feet, and in how many steps. */
import { freshId, get, submit } from "../../session";
import { AskNumbers } from "../../ui/AskNumbers";
import { Fold } from "../../ui/Fold";
import { NumberRow, SwitchRow } from "../../ui/fields";
import type { Member, Shot, Travel } from "../../wire/types";
import { Select } from "../../ui/Select";

/** How a member gets on through the shot. */
export function TravelPanel({ shot, member }: { shot: Shot; member: Member }) {
  const travel = member.travel ?? null;
  const kind = !travel ? "none" : (travel.way ?? []).length > 1 ? "way" : "straight";
  const put = (given: Partial<Travel> | null) =>
    void submit({ do: "set-cast", shot: shot.id, cast: member.id, travel: given });
  const who = { shot: shot.id, cast: member.id };
  const way = travel?.way ?? [];
  return (
    <Fold title="Travel" note={{ none: "stays", straight: "straight on", way: "along a way" }[kind]}>
      <div className="fields">
        <label htmlFor="t-kind">Its feet</label>
        <Select
          id="t-kind"
          size="sm"
          value={kind}
          onChange={(e) => {
            const to = e.target.value;
            if (to === "none") put(null);
            else if (to === "straight") put({ way: [] });
            else void submit({ do: "begin-way", ...who });
          }}
        >
          <option value="none">step on the spot</option>
          <option value="straight">carry it straight on</option>
          <option value="way">carry it along a way</option>
        </Select>
        {kind === "way" && (
          <SwitchRow
            id="t-turning"
            label="Looks"
            text="to where it goes"
            checked={travel?.turning ?? true}
            onChange={(turning) => put({ turning })}
          />
        )}
        {kind !== "none" && (
          <NumberRow
            id="t-gone"
            label="Begins"
            value={travel?.gone ?? 0}
            unit="units on"
            onCommit={(gone) => put({ gone })}
          />
        )}
      </div>
      {kind === "way" && (
        <>
          <p className="hint">Drag its diamonds on the stage. The points, seen from where it stands:</p>
          <ol className="vias">
            {way.map((p, n) => (
              <li key={n}>
                <span>
                  {Math.round(p.at[0])}, {Math.round(p.at[1])}
                </span>
                <button
                  type="button"
                  className="icon-btn quiet"
                  aria-label={`Point ${n + 1}: ${p.smooth ? "gone through in a curve" : "a corner"}`}
                  aria-pressed={p.smooth}
                  onClick={() => void submit({ do: "set-way-point", ...who, point: n, smooth: !p.smooth })}
                >
                  <i className={`bi bi-${p.smooth ? "bezier2" : "slash-lg"}`} aria-hidden="true" />
                </button>
                <button
                  type="button"
                  className="icon-btn quiet"
                  aria-label={`Remove point ${n + 1}`}
                  disabled={way.length <= 2}
                  onClick={() => void submit({ do: "remove-way-point", ...who, point: n })}
                >
                  <i className="bi bi-x-lg" aria-hidden="true" />
                </button>
              </li>
            ))}
          </ol>
          <button type="button" className="icon-btn" onClick={() => void submit({ do: "extend-way", ...who })}>
            <i className="bi bi-plus-lg" aria-hidden="true" /> Go on to one more point
          </button>
        </>
      )}
    </Fold>
  );
}

/** Asks in how many steps a walk is to go how far. */
export function AskSteps({ cast, span, close }: { cast: string; span: string; close: () => void }) {
  return (
    <AskNumbers
      title="Fit the steps to the way"
      text="So that it arrives at the end of its way with its last step. The stride gives way a little; nought steps: as many as suit its stride."
      fields={[{ key: "n", label: "Steps", of: "steps.asked", value: 4 }]}
      button="Fit"
      done={({ n }) => {
        const shot = get().shot;
        if (!shot) return;
        const id = freshId();
        const steps = n! > 0 ? n : undefined;
        void submit({ do: "fit-steps", shot, cast, span, steps, id });
      }}
      close={close}
    />
  );
}
