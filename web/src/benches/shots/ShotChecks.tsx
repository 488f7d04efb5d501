/** Likely mistakes in a shot, each with a jump to where it is seen. */
import { goTo, set, type Bench } from "../../session";
import { Fold } from "../../ui/Fold";
import type { Shot } from "../../wire/types";
import { useOverview } from "./overview";

export function ShotChecks({ shot, go }: { shot: Shot; go: (bench: Bench) => void }) {
  const found = useOverview()?.shots[shot.id]?.found ?? [];
  return (
    <Fold title="Left to do" note={found.length ? String(found.length) : "nothing"}>
      {!found.length && <p className="faint mb-0">No likely mistakes in this shot.</p>}
      <ul className="findings">
        {found.map((f, n) => (
          <li key={n}>
            <button
              type="button"
              className="finding"
              onClick={() => {
                if (f.cast) set({ picked: { kind: "cast", id: f.cast }, shotKeys: [] });
                if (f.frame != null) goTo(f.frame);
                if (f.motion) {
                  set({ motion: f.motion, puppet: f.puppet ?? null });
                  go("motion");
                }
              }}
            >
              <i className="bi bi-flag" aria-hidden="true" />
              <span>{f.text}</span>
            </button>
          </li>
        ))}
      </ul>
    </Fold>
  );
}
