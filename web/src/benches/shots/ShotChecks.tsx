/** Likely mistakes in a shot, each with a jump to where it is seen. */
import { goTo, set, type Bench } from "../../session";
import { Fold } from "../../ui/Fold";
import type { Overview, Shot } from "../../wire/types";
import { useOverview } from "./overview";

export function ShotChecks({ shot, go }: { shot: Shot; go: (bench: Bench) => void }) {
  const found = useOverview()?.shots[shot.id]?.found ?? [];
  return (
    <Fold title="Left to do" note={found.length ? String(found.length) : "nothing"}>
      {!found.length && <p className="faint mb-0">No likely mistakes in this shot.</p>}
      <ul className="findings">
        {found.map((f, n) => (
          <li key={n}>
            <Found text={f.text} jump={jumpTo(f, go)} />
          </li>
        ))}
      </ul>
    </Fold>
  );
}

/** What goes to where a likely mistake is seen; null for one that is seen nowhere in particular. */
function jumpTo(f: Overview["shots"][string]["found"][number], go: (bench: Bench) => void): (() => void) | null {
  const { motion } = f;
  if (motion)
    return () => {
      set({ motion, puppet: f.puppet ?? null, frame: f.frame ?? 0 });
      go("motion");
    };
  if (!f.cast && f.frame == null) return null;
  return () => {
    if (f.cast) set({ picked: { kind: "cast", id: f.cast }, shotKeys: [] });
    if (f.frame != null) goTo(f.frame);
  };
}

function Found({ text, jump }: { text: string; jump: (() => void) | null }) {
  const said = (
    <>
      <i className="bi bi-flag" aria-hidden="true" />
      <span>{text}</span>
    </>
  );
  if (!jump) return <div className="finding">{said}</div>;
  return (
    <button type="button" className="finding" onClick={jump}>
      {said}
    </button>
  );
}
