/** The switch over the stage for the pass in which shots show. */
import { see } from "../../session";
import type { Pass } from "../../wire/types";
import { PASSES } from "./ShotPanel";

/** In which pass it shows: its own, or another to look at. */
export function PassSwitch({ own, seenAs }: { own: Pass | null; seenAs: Pass | null }) {
  const shown = seenAs ?? own;
  return (
    <div className="pass-switch" role="group" aria-label="Seen in the pass">
      {own === null && (
        <button
          type="button"
          className="icon-btn"
          aria-pressed={seenAs === null}
          title="Each shot in the pass that it has come to"
          onClick={() => see({ seenAs: null })}
        >
          As they are
        </button>
      )}
      {PASSES.map((p) => (
        <button
          key={p.id}
          type="button"
          className="icon-btn"
          aria-pressed={shown === p.id}
          title={`${p.name}: ${p.text}${p.id === own ? " (the shot's own pass)" : ""}`}
          onClick={() => see({ seenAs: p.id === own || p.id === seenAs ? null : p.id })}
        >
          {p.name}
        </button>
      ))}
    </div>
  );
}
