/** Likely mistakes in the rig: what, where, and a mend in one step. */
import { Button } from "react-bootstrap";
import type { Finding, Puppet } from "../wire/types";
import { set, submit, useWorkshop } from "../session";
import { Fold } from "../ui/Fold";
import { pieceOn } from "../stage/scene";

export function ChecksCard({ puppet }: { puppet: Puppet }) {
  const rig = useWorkshop((w) => w.rig);
  const found = rig?.puppet === puppet.id ? rig.findings : [];
  const show = (f: Finding) => {
    const joint = f.joints[0] ?? null;
    const piece = f.pieces[0] ?? (joint ? pieceOn(joint) : null);
    set({ joint, pieces: piece ? [piece] : [], pose: null });
  };
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
      {found.length === 0 && <p className="hint m-0">No likely mistakes in the rig.</p>}
      {found.map((f, i) => (
        <div key={`${f.check}-${f.joints.join()}-${i}`} className="finding" data-check={f.check}>
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
