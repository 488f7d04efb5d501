/** The card of a proposed rig: its limbs, how sure each is, and what is taken of them. */
import { Button, Form } from "react-bootstrap";
import { see, pickOut } from "../../session";
import { Fold } from "../../ui/Fold";
import type { Hang, Puppet } from "../../wire/types";
import type { Limb, Rigging } from "./proposal";

/** From how many loose pieces on a rig is offered. */
const ENOUGH = 3;

const percent = (sure: number): string => `${Math.round(sure * 100)} %`;

export function ProposedRig({ puppet, rigging }: { puppet: Puppet; rigging: Rigging }) {
  const { limbs, loose } = rigging;
  if (!limbs && loose < ENOUGH) return null;
  return (
    <Fold title="Proposed rig" note={`${loose} loose ${loose === 1 ? "piece" : "pieces"}`}>
      {limbs ? <Limbs puppet={puppet} rigging={rigging} limbs={limbs} /> : <Offer rigging={rigging} />}
    </Fold>
  );
}

function Offer({ rigging }: { rigging: Rigging }) {
  return (
    <>
      <p className="hint mt-0 mb-2">
        These pieces hang on nothing yet. Their names, and where they overlap, say what they may hang on.
      </p>
      <div className="d-flex gap-2">
        <Button size="sm" disabled={rigging.asking} onClick={rigging.ask}>
          {rigging.asking ? "Looking…" : "Propose a rig"}
        </Button>
        <Button size="sm" variant="outline-primary" onClick={() => see({ reusing: "rig" })}>
          Use a rig…
        </Button>
      </div>
    </>
  );
}

function Limbs({ puppet, rigging, limbs }: { puppet: Puppet; rigging: Rigging; limbs: Limb[] }) {
  const name = (id: string) => puppet.joints?.[id]?.name ?? id;
  const { refused, open } = rigging;
  const some = limbs.some((l) => !refused.has(l.name));
  return (
    <>
      {rigging.questions.length > 0 && <Questions puppet={puppet} rigging={rigging} />}
      {!limbs.length && <p className="hint mt-0">Neither names nor overlaps say what hangs on what.</p>}
      <ul className="limbs">
        {limbs.map((limb) => (
          <li
            key={limb.name}
            data-limb={limb.name}
            className={refused.has(limb.name) ? "refused" : rigging.shown === limb.name ? "shown" : ""}
            onPointerEnter={() => rigging.show(limb.name)}
            onPointerLeave={() => rigging.show(null)}
            onFocus={() => rigging.show(limb.name)}
            onBlur={() => rigging.show(null)}
          >
            <Form.Check
              id={`limb ${limb.name}`}
              checked={!refused.has(limb.name)}
              onChange={(e) => rigging.refuse(limb.name, !e.target.checked)}
              label={limb.name}
            />
            <Sure sure={limb.sure} />
            <Button size="sm" variant="outline-primary" onClick={() => rigging.take(limb.name)}>
              Take<span className="visually-hidden"> the {limb.name}</span>
            </Button>
            <p className="faint small m-0">{told(limb.hangs, name)}</p>
          </li>
        ))}
      </ul>
      {open.length > 0 && (
        <p className="small mb-2">
          Left open:{" "}
          {open.map((id, i) => (
            <span key={id}>
              {i > 0 && ", "}
              <button type="button" className="btn btn-link btn-sm p-0" onClick={() => pickOut({ joint: id })}>
                {name(id)}
              </button>
            </span>
          ))}
          . Link these by hand.
        </p>
      )}
      <div className="d-flex gap-2">
        <Button size="sm" disabled={!some} onClick={() => rigging.take()}>
          {refused.size ? "Take what is ticked" : "Take it all"}
        </Button>
        <Button size="sm" variant="outline-primary" onClick={rigging.drop}>
          {limbs.length ? "Not now" : "Close"}
        </Button>
      </div>
    </>
  );
}

/** What is not clear: each is asked here, by its number on the figure, and answered with a click. */
function Questions({ puppet, rigging }: { puppet: Puppet; rigging: Rigging }) {
  const name = (id: string) => puppet.joints?.[id]?.name ?? id;
  return (
    <ol className="questions" aria-label="What is not clear">
      {rigging.questions.map(({ joint, among, proposed }) => {
        const said = rigging.said.get(joint);
        // Until somebody says, what is proposed is taken for right.
        const taken = said === undefined ? proposed : undefined;
        return (
          <li key={joint}>
            <span>
              What does{" "}
              <button
                type="button"
                className="btn btn-link btn-sm p-0 align-baseline"
                onClick={() => pickOut({ joint })}
              >
                {name(joint)}
              </button>{" "}
              hang on?
            </span>
            <div className="d-flex flex-wrap gap-1" role="group" aria-label={`What ${name(joint)} hangs on`}>
              {[...among, null].map((on) => (
                <button
                  key={on}
                  type="button"
                  className={`btn btn-sm ${on === said ? "btn-primary" : "btn-outline-primary"}${on === taken ? " taken" : ""}`}
                  aria-pressed={on === said}
                  title={on === taken ? "Taken for right until you say" : undefined}
                  onPointerEnter={() => on !== null && rigging.lookAtAnswer({ joint, on })}
                  onPointerLeave={() => rigging.lookAtAnswer(null)}
                  onFocus={() => on !== null && rigging.lookAtAnswer({ joint, on })}
                  onBlur={() => rigging.lookAtAnswer(null)}
                  onClick={() => rigging.say(joint, said === on ? undefined : on)}
                >
                  {on === null ? "nothing" : name(on)}
                </button>
              ))}
            </div>
          </li>
        );
      })}
    </ol>
  );
}

/** How sure a limb is, as a bar and in percent. */
function Sure({ sure }: { sure: number }) {
  return (
    <span className="sure" title="How sure this is">
      <span className="bar" aria-hidden="true">
        <span style={{ width: `${sure * 100}%` }} />
      </span>
      <span className="visually-hidden">sure to </span>
      {percent(sure)}
    </span>
  );
}

/** Parts of a limb that are told one by one. */
const TOLD = 4;

/** What hangs on what in a limb, and why. */
function told(hangs: Hang[], name: (id: string) => string): string {
  const parts = hangs.map(({ hung }) => {
    const own = hung.role ? `${name(hung.joint)} (${hung.role})` : name(hung.joint);
    return hung.parent ? `${own} on ${name(hung.parent)}` : own;
  });
  const more = parts.length > TOLD ? ` and ${parts.length - TOLD + 1} more` : "";
  const why = [...new Set(hangs.filter((h) => h.hung.parent).map((h) => h.why))].join("; ");
  return `${parts.slice(0, more ? TOLD - 1 : TOLD).join(", ")}${more}${why ? `: ${why}` : ""}.`;
}
