/** The buttons over the stage of the Pieces bench. */
import { Button } from "react-bootstrap";
import { submit, useWorkshop } from "../../session";
import { swing } from "../../stage/tools/place";
import { IconButton } from "../../ui/bits";
import { Menu } from "../../ui/Menu";
import type { Puppet } from "../../wire/types";
import { copy, mirror, type Mode, outermost, remove, step, TOOLS } from "./commands";

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
      {TOOLS.map((t) => (
        <IconButton
          key={t.kind}
          icon={t.icon}
          label={t.label}
          keys={t.keys}
          pressed={mode === t.kind}
          onClick={() => to(t.kind)}
        />
      ))}
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
      <Menu
        label="Order, from the back to the front"
        entries={[
          { text: "To the very front (Alt PageUp)", run: () => outermost("front"), disabled: !pieces.length },
          { text: "One step to the front (Shift PageUp)", run: () => step("front"), disabled: pieces.length !== 1 },
          { text: "One step to the back (Shift PageDown)", run: () => step("back"), disabled: pieces.length !== 1 },
          { text: "To the very back (Alt PageDown)", run: () => outermost("back"), disabled: !pieces.length },
        ]}
      >
        <i className="bi bi-layers" aria-hidden="true" />
      </Menu>
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
