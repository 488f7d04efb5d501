/** Says which shots are shown and rendered with their poses held, and lets them move in one press. */
import { submit } from "../session";
import { several } from "../ui/text";
import type { Shot } from "../wire/types";

interface Props {
  shots: Shot[];
  /** Whether they are some of many. */
  some?: boolean;
  className?: string;
}

export function HeldNote({ shots, some = false, className = "held-note" }: Props) {
  if (!shots.length) return null;
  const them = shots.length > 1;
  const which = some ? `${several(shots.length, "shot")} in the blocking pass` : "In the blocking pass";
  return (
    <div className={className} role="note">
      <span className="flex-grow-1">{which}: poses are held, in the film too</span>
      <button
        type="button"
        className="btn btn-sm btn-light text-nowrap"
        title={`To the final pass, in which ${them ? "they play all that they hold" : "it plays all that it holds"}`}
        onClick={() => void submit({ do: "set-pass", shots: shots.map((s) => s.id), stage: "final" })}
      >
        Let {them ? "them" : "it"} move
      </button>
    </div>
  );
}
