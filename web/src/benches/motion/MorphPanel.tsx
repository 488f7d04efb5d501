/** How the drawings at the selected keys give way to the next: they stay, make room, or become it. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { keepBetweens, submit, useWorkshop } from "../../session";
import { MorphView } from "../../morph/MorphView";
import { framesOf } from "../../sheet/threads";
import { Choices, type Choice } from "../../ui/Choices";
import { AskNumbers } from "../../ui/AskNumbers";
import { Fold } from "../../ui/Fold";
import type { Key, Motion, Piece, Puppet } from "../../wire/types";

type Change = NonNullable<Key["change"]>;
const CHANGES: Choice<Change>[] = [
  { value: "hold", name: "Hold", tip: "Stays until the next drawing" },
  { value: "cut", name: "Cut", tip: "Makes room for the next half way, by the ease" },
  { value: "morph", name: "Morph", tip: "Becomes the next drawing, by the ease" },
];

/** The drawing that a key shows. */
const drawingAt = (piece: Piece, key: Key | undefined) =>
  piece.drawings.find((d) => d.number === key?.value[0]) ??
  piece.drawings.find((d) => d.id === piece.shows) ??
  piece.drawings[0]!;

export function MorphPanel({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const keys = useWorkshop((w) => w.keys);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const spacing = useWorkshop((w) => w.spacing);
  const [open, setOpen] = useState(false);
  const [every, setEvery] = useState(false);
  const long = motion.length;
  const refs = keys.filter((k) => motion.channels?.[k.channel]?.kind === "show");
  if (!refs.length || refs.length !== keys.length) return null;
  const of = refs[0]!;
  const channel = motion.channels![of.channel]!;
  const piece = puppet.pieces?.[channel.joint];
  if (!piece) return null;
  const found = refs.map((k) => motion.channels![k.channel]!.keys?.[String(k.frame)]);
  const changes = new Set(found.map((k) => k?.change ?? "hold"));
  const change = changes.size === 1 ? [...changes][0]! : null;
  const frames = framesOf(channel).filter((f) => f < long);
  const next = frames.find((f) => f > of.frame) ?? (motion.cycle ? frames[0] : undefined);
  const [one, two] = [
    drawingAt(piece, channel.keys?.[String(of.frame)]),
    next === undefined ? null : drawingAt(piece, channel.keys?.[String(next)]),
  ];
  const gap = spacing[of.channel]?.gaps.find((g) => g[0] === of.frame);
  const end = gap?.[1] ?? of.frame;
  const morphs = change === "morph" && two !== null && two.id !== one.id;
  const inside = frame > of.frame && frame < end && frame < long;
  // Round a loop frames go on from the beginning.
  const between = Array.from({ length: Math.max(0, end - of.frame - 1) }, (_, k) => (of.frame + 1 + k) % long);
  return (
    <Fold title="To the next drawing" note={piece.name}>
      <p className="small mb-2">
        <b>{one.name}</b>
        {two ? (
          <>
            , then <b>{two.name}</b>
          </>
        ) : (
          " until the end"
        )}
      </p>
      <Choices
        label="Up to the next drawing"
        choices={CHANGES}
        disabled={!two}
        chosen={(value) => change === value}
        choose={(value) => void submit({ do: "change-gaps", motion: motion.id, keys: refs, change: value })}
      />
      {!two && <p className="hint mb-0">Key another drawing after it, and it can become that.</p>}
      {morphs && (
        <>
          <Button size="sm" className="w-100 mb-2" onClick={() => setOpen(true)}>
            Match marks and ways…
          </Button>
          <div className="d-flex gap-1">
            <Button
              size="sm"
              variant="outline-primary"
              disabled={!inside}
              title="The in-between at the playhead becomes a drawing of the piece, keyed there"
              onClick={() => void keepBetweens(piece.id, [frame], "morph")}
            >
              Keep this in-between
            </Button>
            <Button size="sm" variant="outline-primary" disabled={!between.length} onClick={() => setEvery(true)}>
              Every…
            </Button>
          </div>
          <p className="hint mb-0">
            {inside ? "It becomes a drawing of its own." : "Go to a frame between the two to keep what is there."}
          </p>
        </>
      )}
      {open && two && (
        <MorphView
          puppet={puppet}
          piece={piece}
          first={one.id}
          second={two.id}
          parts={
            gap && gap[2].length > 2 ? [...gap[2].slice(0, 96), 1].map((p) => Math.min(Math.max(p, 0), 1)) : undefined
          }
          close={() => setOpen(false)}
        />
      )}
      {every && (
        <AskNumbers
          title="In-betweens as drawings"
          button="Make drawings"
          fields={[{ key: "every", label: "On every", of: "betweens.every", value: 2, unit: "fr" }]}
          close={() => setEvery(false)}
          done={({ every: n }) =>
            void keepBetweens(
              piece.id,
              between.filter((_, k) => (k + 1) % n! === 0),
              "hold",
            )
          }
        />
      )}
    </Fold>
  );
}
