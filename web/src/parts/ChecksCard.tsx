/** Likely mistakes: what, where, and a mend in one step. */
import { Button } from "react-bootstrap";
import type { Finding, Puppet } from "../wire/types";
import { goTo, submit, useWorkshop, pickOut } from "../session";
import { Fold } from "../ui/Fold";
import { identities } from "../ui/identity";
import { pieceOn } from "../stage/scene";

/** Those of a puppet's rig. */
export function ChecksCard({ puppet }: { puppet: Puppet }) {
  const rig = useWorkshop((w) => w.rig);
  const found = rig?.puppet === puppet.id ? rig.findings : [];
  return <Findings found={found} none="No likely mistakes in the rig." />;
}

/** Those of a motion; showing one goes to its frame. */
export function MotionChecks({ motion }: { motion: string }) {
  const report = useWorkshop((w) => w.report);
  const found = report?.motion === motion ? report.findings : [];
  return <Findings found={found} none="No likely mistakes in the motion." />;
}

function show(f: Finding): void {
  const joint = f.joints[0] ?? null;
  const piece = f.pieces[0] ?? (joint ? pieceOn(joint) : null);
  const keys = (f.keys ?? []).map(([channel, frame]) => ({ channel, frame }));
  pickOut({ joint, pieces: piece ? [piece] : [], pose: null, ...(keys.length ? { keys, poses: [] } : {}) });
  if (f.frame != null) goTo(f.frame);
}

export function Findings({ found, none }: { found: Finding[]; none: string }) {
  const ids = identities(found);
  return (
    <Fold
      title="Checks"
      note={
        found.length ? (
          <span className="badge text-bg-warning">{found.length}</span>
        ) : (
          <i className="bi bi-check2" role="img" aria-label="nothing found" />
        )
      }
      open
    >
      {found.length === 0 && <p className="hint m-0">{none}</p>}
      {found.map((f, i) => (
        <div key={ids[i]} className="finding" data-check={f.check}>
          <button type="button" className="text" title="Show it" onClick={() => show(f)}>
            {f.text}
          </button>
          {f.mend && (
            <Button
              size="sm"
              variant="outline-primary"
              className="align-self-start"
              onClick={() => void submit(f.mend!)}
            >
              {f.mending}
            </Button>
          )}
        </div>
      ))}
    </Fold>
  );
}
