/** The pose book: named poses and short motions of the puppet, put back whole or for a limb, mixed or mirrored. */
import { useEffect, useState } from "react";
import { Button } from "react-bootstrap";
import { AskName } from "../../ui/AskName";
import {
  freshId,
  get,
  putBack,
  submit,
  submitTried,
  tryCommand,
  lookAtRest,
  useWorkshop,
  type Pose,
} from "../../session";
import { boxOf } from "../../stage/scene";
import { showing } from "../../stage/tool";
import { Painted } from "../../stage/Painted";
import { NumberRow, Slider, SwitchRow } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import { Row, Rows } from "../../ui/Rows";
import type { BookEntry, Command, Motion, Puppet } from "../../wire/types";

const [WIDE, HIGH] = [66, 58];

export function BookPanel({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const entries = Object.values(puppet.book ?? {});
  const [chosen, setChosen] = useState<string | null>(null);
  const [asking, setAsking] = useState<"keep" | "name" | null>(null);
  const keys = useWorkshop((w) => w.keys);
  const held = entries.find((e) => e.id === chosen);
  const keep = (name: string) => {
    const { frame } = get();
    const frames = keys.map((k) => k.frame);
    // Keys selected over several frames are kept as a short motion, of their threads alone.
    const several = new Set(frames).size > 1;
    const id = freshId();
    void submit({
      do: "keep-in-book",
      motion: motion.id,
      id,
      name,
      frame: several ? Math.min(...frames) : frame,
      frames: several ? Math.max(...frames) - Math.min(...frames) + 1 : 1,
      channels: several ? [...new Set(keys.map((k) => k.channel))] : null,
    }).then((done) => done && setChosen(id));
  };
  return (
    <Fold title="Pose book" note={entries.length || undefined} open={entries.length > 0}>
      {entries.length > 0 && (
        <Rows
          kind="cards"
          label="Poses in the book"
          className="book"
          ids={entries.map((entry) => entry.id)}
          chosen={chosen ? [chosen] : []}
          choose={(id) => setChosen(id === chosen ? null : id)}
        >
          {entries.map((entry) => (
            <Row key={entry.id} id={entry.id} chosen={entry.id === chosen}>
              <Thumb entry={entry} puppet={puppet} />
              <span className="name text-truncate">
                {entry.name}
                {entry.frames > 1 && <span className="faint"> {entry.frames} fr</span>}
              </span>
            </Row>
          ))}
        </Rows>
      )}
      {held && (
        <Putting
          key={held.id}
          entry={held}
          motion={motion}
          rename={() => setAsking("name")}
          remove={() => void submit({ do: "remove-from-book", puppet: puppet.id, entry: held.id })}
        />
      )}
      {!entries.length && (
        <p className="hint mt-0">Keep a pose here, and put it back in any motion: whole, for a limb, or in part.</p>
      )}
      <Button size="sm" variant="outline-primary" onClick={() => setAsking("keep")}>
        {new Set(keys.map((k) => k.frame)).size > 1 ? "Keep the selected keys…" : "Keep this pose…"}
      </Button>
      {asking && (
        <AskName
          title={asking === "keep" ? "Keep in the pose book" : "Rename"}
          start={asking === "name" ? (held?.name ?? "") : ""}
          close={() => setAsking(null)}
          done={(name) =>
            asking === "keep"
              ? keep(name)
              : void submit({ do: "name-in-book", puppet: puppet.id, entry: held!.id, name })
          }
        />
      )}
    </Fold>
  );
}

interface PuttingProps {
  entry: BookEntry;
  motion: Motion;
  rename: () => void;
  remove: () => void;
}

function Putting({ entry, motion, rename, remove }: PuttingProps) {
  const [percent, setPercent] = useState(100);
  const [mirrored, setMirrored] = useState(false);
  const [limb, setLimb] = useState(false);
  const [show] = useState(showing);
  const name = useWorkshop((w) => w.plan?.limbs[w.joint ?? w.pieces[0] ?? ""]);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const command = (part: number): Command => {
    const { plan } = get();
    const only = limb && name ? Object.keys(entry.keys ?? {}).filter((c) => plan?.limbs[owner(c)] === name) : null;
    return {
      do: "put-from-book",
      motion: motion.id,
      entry: entry.id,
      frame: get().frame,
      percent: part,
      mirrored,
      channels: only,
    };
  };
  return (
    <div className="fields mt-2">
      <NumberRow
        id="book-percent"
        label="Part of it"
        of="PutFromBook.percent"
        value={percent}
        unit="%"
        digits={0}
        onCommit={setPercent}
      />
      <span />
      <Slider
        label="Part of the pose"
        step={1}
        of="PutFromBook.percent"
        value={percent}
        onSlide={(v) => show(() => tryCommand(command(v), get().frame))}
        onCommit={(v) => setPercent(v)}
        onCancel={() => putBack()}
      />
      <SwitchRow
        id="book-mirrored"
        label="Sides"
        text="swapped"
        checked={mirrored}
        onChange={(on) => setMirrored(on)}
      />
      <SwitchRow
        id="book-limb"
        label="Only"
        text={name ?? "the selected limb"}
        checked={limb && !!name}
        disabled={!name}
        onChange={(on) => setLimb(on)}
      />
      <span />
      <div className="d-flex gap-1 flex-wrap">
        <Button size="sm" onClick={() => void submitTried(command(percent))}>
          Put at frame {frame + 1}
        </Button>
        <button type="button" className="icon-btn" aria-label={`Rename ${entry.name}`} title="Rename" onClick={rename}>
          <i className="bi bi-pencil" aria-hidden="true" />
        </button>
        <button
          type="button"
          className="icon-btn"
          aria-label={`Take ${entry.name} out of the book`}
          title="Take it out of the book"
          onClick={remove}
        >
          <i className="bi bi-trash" aria-hidden="true" />
        </button>
      </div>
    </div>
  );
}

const owner = (channel: string): string => channel.slice(0, channel.lastIndexOf("."));

/** The pose as the core makes it of the puppet at rest. */
function Thumb({ entry, puppet }: { entry: BookEntry; puppet: Puppet }) {
  const [pose, setPose] = useState<Pose | null>(null);
  const plan = useWorkshop((w) => w.plan?.target);
  useEffect(() => {
    let live = true;
    const tried = Object.fromEntries(
      Object.entries(entry.keys ?? {}).map(([id, keys]) => {
        const first = Math.min(...Object.keys(keys).map(Number));
        return [id, [...keys[String(first)]!.value]];
      }),
    );
    if (plan) void lookAtRest(tried, () => live).then((found) => live && found && setPose(found));
    return () => {
      live = false;
    };
  }, [entry, plan, puppet.pieces, puppet.joints]);
  return (
    <Painted
      width={WIDE}
      height={HIGH}
      watch={[pose]}
      paint={(p) => {
        const frame = pose && { ...pose.drawn, at: 0 };
        const box = frame && boxOf(frame);
        if (!frame || !box) return null;
        const scale = Math.min((0.94 * WIDE) / (box[2] - box[0]), (0.94 * HIGH) / (box[3] - box[1]));
        return p.thumbnail(WIDE, HIGH, (c) => {
          c.translate(WIDE / 2, HIGH / 2);
          c.scale(scale, scale);
          c.translate(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2);
          p.draw(c, frame);
        });
      }}
    />
  );
}
