/** The buttons over the stage of the Rig bench. */
import { Button } from "react-bootstrap";
import type { Brush } from "../../stage/tools/paint";
import { PullButtons } from "../../parts/pulls";
import { IconButton } from "../../ui/bits";
import { TrySlider } from "../../ui/fields";
import type { Pull } from "../../wire/types";
import { type Mode, unlink } from "./commands";

interface Props {
  mode: Mode;
  to: (mode: Mode) => void;
  pull: Pull;
  setPull: (pull: Pull) => void;
  brush: Brush;
  setBrush: (brush: Brush) => void;
  /** Whether the selected joint hangs on another. */
  linked: boolean;
  /** Go on to the next bench, once there is something to go on with. */
  next: (() => void) | null;
}

export function Bar({ mode, to, pull, setPull, brush, setBrush, linked, next }: Props) {
  return (
    <div className="stage-bar">
      <IconButton
        icon="link-45deg"
        label="Link: drag from a piece to the piece it hangs on"
        keys="l"
        text="Link"
        pressed={mode === "link"}
        onClick={() => to("link")}
      />
      <IconButton
        icon="share"
        label="Draw joints: click over the art, each hangs on the selected one (Shift: on nothing); drag to move one"
        keys="j"
        text="Joints"
        pressed={mode === "joints"}
        onClick={() => to("joints")}
      />
      <IconButton
        icon="diamond"
        label="Set handles: they hang on what is selected, and pull the selected piece's sheet (Alt-click picks a piece)"
        keys="h"
        text="Handles"
        pressed={mode === "handles"}
        onClick={() => to("handles")}
      />
      <IconButton
        icon="person-arms-up"
        label="Try a pose: nothing of it is kept"
        keys="t"
        text="Try a pose"
        pressed={mode === "try"}
        onClick={() => to("try")}
      />
      {mode === "try" && (
        <>
          <span className="divider" />
          <PullButtons pull={pull} setPull={setPull} of={["turn", "move", "limb"]} bare />
        </>
      )}
      {mode === "paint" && (
        <>
          <span className="divider" />
          <label className="faint small" htmlFor="brush-radius">
            Brush
          </label>
          <TrySlider
            id="brush-radius"
            className="brush"
            of="brush.radius"
            value={brush.radius}
            onSlide={(radius) => setBrush({ ...brush, radius })}
          />
          <IconButton
            icon="plus-lg"
            label="Give the joint more"
            pressed={brush.amount > 0}
            onClick={() => setBrush({ ...brush, amount: Math.abs(brush.amount) })}
          />
          <IconButton
            icon="dash-lg"
            label="Give the joint less (or hold Alt)"
            pressed={brush.amount < 0}
            onClick={() => setBrush({ ...brush, amount: -Math.abs(brush.amount) })}
          />
        </>
      )}
      <span className="divider" />
      <IconButton
        icon="x-circle"
        label="Unlink the selected joint; it stays where it is"
        keys="u"
        disabled={!linked}
        onClick={unlink}
      />
      <span className="flex-grow-1" />
      {next && (
        <Button size="sm" onClick={next}>
          Motion <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
        </Button>
      )}
    </div>
  );
}
