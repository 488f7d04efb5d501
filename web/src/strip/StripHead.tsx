/** What stands before the pose strip: how retiming works, and making cards. */
import { Button } from "react-bootstrap";
import { submit } from "../session";
import type { Motion } from "../wire/types";

interface Props {
  motion: Motion;
  follow: boolean;
  setFollow: (follow: boolean) => void;
}

export function StripHead({ motion, follow, setFollow }: Props) {
  const count = Object.keys(motion.poses ?? {}).length;
  const keyed = Object.keys(motion.channels ?? {}).length > 0;
  return (
    <div className="strip-head">
      <div className="small">
        <b>{count}</b> {count === 1 ? "pose" : "poses"}
      </div>
      {count > 0 && <WhenRetimed follow={follow} setFollow={setFollow} />}
      {count === 0 && keyed && (
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => void submit({ do: "find-poses", motion: motion.id })}
        >
          Make cards of the keys
        </Button>
      )}
      {count === 0 && !keyed && <span className="faint small">Pose, then “Key the whole pose” makes a card.</span>}
    </div>
  );
}

function WhenRetimed({ follow, setFollow }: Pick<Props, "follow" | "setFollow">) {
  return (
    <div className="btn-group btn-group-sm" role="group" aria-label="When a pose is retimed">
      {(
        [
          [true, "later follow", "Later poses follow, and the motion changes its length"],
          [false, "next gives way", "The next pose gives way; the motion keeps its length"],
        ] as const
      ).map(([value, text, tip]) => (
        <button
          key={text}
          type="button"
          title={tip}
          aria-pressed={follow === value}
          className={`btn ${follow === value ? "btn-primary" : "btn-outline-primary"}`}
          onClick={() => setFollow(value)}
        >
          {text}
        </button>
      ))}
    </div>
  );
}
