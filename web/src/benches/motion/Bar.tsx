/** The buttons over the stage of the Motion bench. */
import { Button } from "react-bootstrap";
import { useShallow } from "zustand/react/shallow";
import { puppetOf, setOnion, useWorkshop, see } from "../../session";
import { PullButtons } from "../../parts/pulls";
import { IconButton } from "../../ui/bits";
import type { Motion } from "../../wire/types";
import { beginLimbs, keyWholePose, toggleCapture } from "./commands";
import type { PosingHand } from "./keys";

/** Where limbs that are pulled begin: by themselves, or at a joint that was selected for it. */
function Begins() {
  const { joint, begins, joints } = useWorkshop(
    useShallow((w) => ({ joint: w.joint, begins: w.limbBegins, joints: puppetOf(w)?.joints })),
  );
  const at = begins ? joints?.[begins] : undefined;
  const next = joint ? joints?.[joint] : undefined;
  const label = at
    ? `Pulled limbs begin at “${at.name}”: let them begin where they hang on the body`
    : next
      ? `Let pulled limbs begin at “${next.name}”`
      : "Pulled limbs begin where they hang on the body: select a joint to begin there";
  return (
    <IconButton icon="flag" label={label} keys="Shift+l" pressed={!!at} disabled={!at && !next} onClick={beginLimbs} />
  );
}

export function Bar({ hand, motion, next }: { hand: PosingHand; motion: Motion | undefined; next: () => void }) {
  const blocking = useWorkshop((w) => w.blocking);
  const onion = useWorkshop((w) => w.onion.on);
  const capture = useWorkshop((w) => w.capture);
  const { pull, setPull, whole, setWhole, keying, setKeying } = hand;
  return (
    <div className="stage-bar">
      <PullButtons pull={pull} setPull={setPull} />
      {pull === "limb" && <Begins />}
      <span className="divider" />
      <IconButton
        icon="pin-angle"
        label="Pull the whole puppet"
        keys="w"
        pressed={whole}
        onClick={() => setWhole(!whole)}
      />
      <span className="divider" />
      <IconButton
        icon="record-circle"
        label={keying ? "Each pull is keyed by itself" : "Pulls are only tried until you key them"}
        keys="a"
        text={keying ? "Keying" : "Trying"}
        pressed={keying}
        onClick={() => setKeying(!keying)}
      />
      <IconButton
        icon="key"
        label="Key the whole pose here"
        keys="Shift+k"
        onClick={() => void keyWholePose()}
        disabled={!motion}
      />
      <IconButton
        icon="hand-index"
        label="Capture: record the pointer into a joint while all else plays"
        keys="r"
        text="Capture"
        pressed={capture !== null}
        onClick={() => toggleCapture()}
        disabled={!motion}
      />
      <IconButton
        icon="pause-btn"
        label="Blocking: held poses, no in-betweens; the keys stay as they are"
        keys="b"
        pressed={blocking}
        onClick={() => see({ blocking: !blocking })}
      />
      <IconButton
        icon="layers-half"
        label="Onion skin: earlier and later frames"
        keys="o"
        pressed={onion}
        onClick={() => setOnion({ on: !onion })}
        disabled={!motion}
      />
      <span className="flex-grow-1" />
      {motion && (
        <Button size="sm" onClick={next}>
          Voice <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
        </Button>
      )}
    </div>
  );
}
