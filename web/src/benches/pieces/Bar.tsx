/** The buttons over the stage of the Pieces bench. */
import { Button } from "react-bootstrap";
import { submit, useWorkshop } from "../../session";
import { swing } from "../../stage/tools/place";
import { IconButton } from "../../ui/bits";
import type { Puppet } from "../../wire/types";
import { copy, mirror, type Mode, outermost, remove, SHAPES, step } from "./commands";

interface Props {
  puppet: Puppet | undefined;
  mode: Mode;
  picking: boolean;
  to: (mode: Mode) => void;
  group: () => void;
  /** Go on to the next bench, once there is something to go on with. */
  next: (() => void) | null;
}

export function Bar({ puppet, mode, picking, to, group, next }: Props) {
  const pieces = useWorkshop((w) => w.pieces);
  return (
    <div className="stage-bar">
      <IconButton
        icon="hand-index"
        label="Place pieces: drag to move"
        keys="v"
        pressed={mode === "place" && !picking}
        onClick={() => to("place")}
      />
      {SHAPES.map((s) => (
        <IconButton
          key={s.kind}
          icon={s.icon}
          label={s.label}
          keys={s.keys}
          pressed={mode === s.kind}
          onClick={() => to(s.kind)}
        />
      ))}
      <IconButton
        icon="bounding-box-circles"
        label="Edit the points of a shape drawn here: drag them, click the line to add one"
        keys="o"
        pressed={mode === "points"}
        onClick={() => to("points")}
      />
      <span className="divider" />
      <IconButton
        icon="symmetry-vertical"
        label="Make the other side, mirrored"
        keys="m"
        text="Other side"
        disabled={!pieces.length}
        onClick={mirror}
      />
      <IconButton
        icon="copy"
        label="A plain copy, with its pins, links and bends"
        keys="Ctrl+d"
        disabled={!pieces.length}
        onClick={copy}
      />
      <IconButton
        icon="arrow-repeat"
        label="Try the turn: it comes back by itself"
        keys="t"
        disabled={pieces.length !== 1}
        onClick={() => swing(pieces[0]!)}
      />
      <IconButton
        icon="layer-forward"
        label="One step to the front"
        keys="Shift+PageUp"
        disabled={pieces.length !== 1}
        onClick={() => step("front")}
      />
      <IconButton
        icon="layer-backward"
        label="One step to the back"
        keys="Shift+PageDown"
        disabled={pieces.length !== 1}
        onClick={() => step("back")}
      />
      <IconButton
        icon="front"
        label="To the very front"
        keys="Alt+PageUp"
        disabled={!pieces.length}
        onClick={() => outermost("front")}
      />
      <IconButton
        icon="back"
        label="To the very back"
        keys="Alt+PageDown"
        disabled={!pieces.length}
        onClick={() => outermost("back")}
      />
      <IconButton icon="collection" label="Group the selected pieces" disabled={!pieces.length} onClick={group} />
      <IconButton
        icon="box-arrow-up-right"
        label="Take the selected pieces out of their group"
        disabled={!pieces.some((id) => puppet?.pieces?.[id]?.group)}
        onClick={() =>
          puppet && void submit({ do: "group-pieces", puppet: puppet.id, pieces, group: null, name: "Group" })
        }
      />
      <IconButton
        icon="trash"
        label="Remove the selected pieces"
        keys="Delete"
        disabled={!pieces.length}
        onClick={remove}
      />
      <span className="flex-grow-1" />
      {next && (
        <Button size="sm" onClick={next}>
          Rig <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
        </Button>
      )}
    </div>
  );
}
