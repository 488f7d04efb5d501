/** The pieces as a contact sheet, front at the top: select, reorder, rename, hide and lock; groups too. */
import { Fragment, memo, useEffect, useState } from "react";
import type { Drawing, Group, Piece, Puppet } from "../wire/types";
import { painter } from "../stage/painter";
import { get, submit, useWorkshop, pickOut } from "../session";
import { IconButton, SideMark } from "../ui/bits";
import { Painted } from "../stage/Painted";
import type { Onto } from "../ui/Carrying";
import { px, several } from "../ui/text";
import { type Choice, chosenWith, Row, Rows } from "../ui/Rows";

export function PieceSheet({ puppet }: { puppet: Puppet }) {
  const chosen = useWorkshop((w) => w.pieces);
  const front = [...(puppet.order ?? [])].reverse();
  const groups = puppet.groups ?? {};
  const path = (id: string | null | undefined): string => {
    const group = id ? groups[id] : undefined;
    return group ? [path(group.parent), group.name].filter(Boolean).join(" / ") : "";
  };
  // A group's caption is a row too, above the first of its pieces.
  const captioned = (i: number): Group | null => {
    const of = puppet.pieces![front[i]!]!.group;
    const here = path(of);
    return here && here !== path(puppet.pieces![front[i - 1] ?? ""]?.group) ? groups[of!]! : null;
  };
  const captions = front.map((_, i) => captioned(i));
  const ids = front.flatMap((id, i) => (captions[i] ? [`group:${captions[i].id}:${id}`, id] : [id]));
  const select = (id: string, how: Choice) => {
    if (id.startsWith("group:")) return pickOut({ pieces: membersOf(puppet, id.split(":")[1]!) });
    pickOut({ pieces: chosenWith(front, chosen, id, how) });
  };
  return (
    <Rows kind="grid" label="Pieces, front first" multiple ids={ids} chosen={chosen} choose={select}>
      {front.map((id, i) => {
        const caption = captions[i];
        return (
          <Fragment key={id}>
            {caption && (
              <GroupRow id={`group:${caption.id}:${id}`} puppet={puppet} group={caption} caption={path(caption.id)} />
            )}
            <PieceRow puppet={puppet.id} piece={puppet.pieces![id]!} chosen={chosen.includes(id)} />
          </Fragment>
        );
      })}
    </Rows>
  );
}

interface PieceRowProps {
  puppet: string;
  piece: Piece;
  chosen: boolean;
}

/** One piece. Of hundreds only those are made anew that changed. */
const PieceRow = memo(function PieceRow({ puppet, piece, chosen }: PieceRowProps) {
  const { id, name } = piece;
  const change = (given: { hidden?: boolean; locked?: boolean }) =>
    void submit({ do: "set-pieces", puppet, pieces: [id], ...given });
  const onto: Onto = {
    takes: ({ kind, id: moving }) => kind === "piece" && moving !== id,
    // Of several that are chosen any carries all.
    drop({ id: moving }) {
      const all = get().pieces;
      const pieces = all.includes(moving) ? all : [moving];
      void submit({ do: "order-pieces", puppet, pieces, in_front_of: id });
    },
  };
  return (
    <Row
      id={id}
      chosen={chosen}
      carried={{ kind: "piece", id, name }}
      onto={onto}
      landing="drop-above"
      className={piece.hidden ? "dimmed" : ""}
      actions={<HideAndLock name={name} hidden={piece.hidden} locked={piece.locked} change={change} />}
    >
      <Thumb piece={piece} />
      <span className="name" title={name}>
        {name}
      </span>
      {piece.drawings.length > 1 && (
        <span className="count" title={`${piece.drawings.length} drawings`}>
          {piece.drawings.length}
        </span>
      )}
      <SideMark side={piece.side} />
    </Row>
  );
});

interface HideAndLockProps {
  name: string;
  hidden: boolean | undefined;
  locked: boolean | undefined;
  change: (given: { hidden?: boolean; locked?: boolean }) => void;
}

function HideAndLock({ name, hidden, locked, change }: HideAndLockProps) {
  return (
    <>
      <IconButton
        quiet
        icon={hidden ? "eye-slash" : "eye"}
        label={`${hidden ? "Show" : "Hide"} ${name}`}
        onClick={(e) => (e.stopPropagation(), change({ hidden: !hidden }))}
      />
      <IconButton
        quiet
        icon={locked ? "lock-fill" : "unlock"}
        label={`${locked ? "Unlock" : "Lock"} ${name}`}
        onClick={(e) => (e.stopPropagation(), change({ locked: !locked }))}
      />
    </>
  );
}

/** The pieces that are in a group, or in one of its groups. */
function membersOf(puppet: Puppet, group: string): string[] {
  const inside = (id: string | null | undefined): boolean => {
    for (let at = id; at; at = puppet.groups?.[at]?.parent) if (at === group) return true;
    return false;
  };
  return (puppet.order ?? []).filter((id) => inside(puppet.pieces?.[id]?.group));
}

/** A group's caption: click to select all that is in it; hide or lock it as a whole. */
function GroupRow({ id, puppet, group, caption }: { id: string; puppet: Puppet; group: Group; caption: string }) {
  const change = (given: { hidden?: boolean; locked?: boolean }) =>
    void submit({ do: "set-group", puppet: puppet.id, group: group.id, ...given });
  return (
    <Row
      id={id}
      chosen={false}
      className="group-row"
      title={`Select the ${several(membersOf(puppet, group.id).length, "piece")} of ${caption}`}
      actions={
        <HideAndLock name={`the group ${group.name}`} hidden={group.hidden} locked={group.locked} change={change} />
      }
    >
      <span className="caption">{caption}</span>
    </Row>
  );
}

function Thumb({ piece }: { piece: Piece }) {
  const drawing = piece.drawings.find((d) => d.id === piece.shows) ?? piece.drawings[0]!;
  return <DrawingThumb drawing={drawing} flip={piece.fit?.sx < 0} width={px(34)} height={px(26)} className="thumb" />;
}

/** A drawing by itself, fitted into a small card. */
export function DrawingThumb({
  drawing,
  flip = false,
  width,
  height,
  className,
}: {
  drawing: Drawing;
  flip?: boolean;
  width: number;
  height: number;
  className?: string;
}) {
  const [ready, setReady] = useState(false);
  useEffect(() => {
    void painter().then((p) =>
      p.prepare([{ arts: [drawing.art] }]).then(
        () => setReady(true),
        () => undefined,
      ),
    );
  }, [drawing.art]);
  return (
    <Painted
      width={width}
      height={height}
      className={className}
      watch={[drawing.art, ready, flip, width, height]}
      paint={(p) => {
        const [l, t, r, b] = drawing.bounds as [number, number, number, number];
        const scale = Math.min((width - 6) / (r - l), (height - 6) / (b - t));
        const way = flip ? -1 : 1;
        const m = [
          way * scale,
          0,
          0,
          scale,
          width / 2 - (way * scale * (l + r)) / 2,
          height / 2 - (scale * (t + b)) / 2,
        ];
        return ready ? p.thumbnail(width, height, (c) => p.drawing(c, drawing.art, m)) : null;
      }}
    />
  );
}
