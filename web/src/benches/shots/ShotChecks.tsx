/** Likely mistakes in shots and in the whole production, each with a jump to where it is seen and, where it is safe, a mend. */
import { Button } from "react-bootstrap";
import { goTo, submit, type Bench, turnTo, pickOut } from "../../session";
import { Fold } from "../../ui/Fold";
import { identities } from "../../ui/identity";
import type { Overview, Shot } from "../../wire/types";
import { openShot } from "./commands";
import { useOverview } from "../../parts/overview";

type Finding = Overview["shots"][string]["found"][number];

export function ShotChecks({ shot, go }: { shot: Shot; go: (bench: Bench) => void }) {
  const found = useOverview()?.shots[shot.id]?.found ?? [];
  return (
    <Fold title="Left to do" note={found.length ? String(found.length) : "nothing"}>
      {!found.length && <p className="faint mb-0">No likely mistakes in this shot.</p>}
      <FoundList found={found} shot={shot} go={go} />
    </Fold>
  );
}

/** Those of a shot, or with no shot those of a puppet by itself. */
export function FoundList({
  found,
  shot,
  go,
}: {
  found: readonly Finding[];
  shot: Shot | null;
  go: (bench: Bench) => void;
}) {
  const ids = identities(found);
  return (
    <ul className="findings">
      {found.map((f, n) => (
        <li key={ids[n]}>
          <Found finding={f} jump={jumpTo(f, shot, go)} />
        </li>
      ))}
    </ul>
  );
}

/** What goes to where a likely mistake is seen; null for one that is seen nowhere in particular. */
function jumpTo(f: Finding, shot: Shot | null, go: (bench: Bench) => void): (() => void) | null {
  const { motion, puppet } = f;
  if (motion)
    return () => {
      turnTo({ motion, puppet: puppet ?? null, frame: f.frame ?? 0, joint: f.joint ?? null });
      go("motion");
    };
  if (puppet)
    return () => {
      turnTo({ puppet, joint: f.joint ?? null });
      go("rig");
    };
  if (!shot || (!f.cast && f.frame == null)) return null;
  return () => {
    openShot(shot.id);
    if (f.cast) pickOut({ picked: { kind: "cast", id: f.cast }, shotKeys: [] });
    if (f.frame != null) goTo(f.frame);
  };
}

function Found({ finding, jump }: { finding: Finding; jump: (() => void) | null }) {
  const { mend } = finding;
  const said = (
    <>
      <i className="bi bi-flag" aria-hidden="true" />
      <span>{finding.text}</span>
    </>
  );
  return (
    <div data-check={finding.check}>
      {jump ? (
        <button type="button" className="finding" title="Show it" onClick={jump}>
          {said}
        </button>
      ) : (
        <div className="finding">{said}</div>
      )}
      {mend && (
        <Button size="sm" variant="outline-primary" className="mb-1" onClick={() => void submit(mend)}>
          {finding.mending}
        </Button>
      )}
    </div>
  );
}
