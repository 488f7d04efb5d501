/** The selected pose: what its card says, how long it is held, and a breakdown on the way to the next. */
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { get, goTo, putBack, submit, tryCommand, useWorkshop, turnTo } from "../../session";
import { showing } from "../../stage/tool";
import { cardsOf } from "../../strip/PoseStrip";
import { NumberField, Slider, TextField } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import type { Command, Motion } from "../../wire/types";

const LABELS = ["contact", "down", "passing", "up", "flight", "anticipation", "overshoot", "settle"];

export function PosePanel({ motion }: { motion: Motion }) {
  const poses = useWorkshop((w) => w.poses);
  const cards = cardsOf(motion);
  const at = cards.findIndex((c) => c.frame === poses[0]);
  const card = cards[at];
  if (!card || poses.length !== 1) return null;
  const pose = motion.poses![String(card.frame)]!;
  const put = (given: { text?: string; breakdown?: boolean; note?: string }) =>
    void submit({ do: "set-pose", motion: motion.id, frame: card.frame, ...given });
  const next = cards[at + 1]?.frame ?? (motion.cycle ? cards[0]!.frame : undefined);
  return (
    <Fold title={card.label ? `Pose: ${card.label}` : "Pose"} note={`frame ${card.frame + 1}`}>
      <div className="fields">
        <label htmlFor="pose-label">Label</label>
        <TextField
          id="pose-label"
          key={`l${card.frame}`}
          value={card.label}
          longest={40}
          usual={LABELS}
          onCommit={(text) => put({ text })}
        />
        <label htmlFor="pose-length">Lasts</label>
        <NumberField
          id="pose-length"
          of="RetimePose.frames"
          value={card.end - card.frame}
          unit="fr"
          onCommit={(v) =>
            void submit({
              do: "retime-pose",
              motion: motion.id,
              frame: card.frame,
              frames: v,
              follow: true,
            })
          }
        />
        <label htmlFor="pose-kind">Breakdown</label>
        <Form.Check
          id="pose-kind"
          type="switch"
          label={card.breakdown ? "between two poses" : "a key pose"}
          checked={card.breakdown}
          onChange={(e) => put({ breakdown: e.target.checked })}
        />
        <label htmlFor="pose-note">Note</label>
        <TextField
          id="pose-note"
          key={`n${card.frame}`}
          value={pose.note}
          longest={400}
          onCommit={(note) => put({ note })}
        />
      </div>
      <Hold motion={motion} frame={card.frame} room={card.end - card.frame} />
      {next !== undefined && <Breakdown motion={motion} first={card.frame} next={next} end={card.end} />}
      {next === undefined && <p className="hint mb-0">A breakdown goes between two poses: key the next one first.</p>}
    </Fold>
  );
}

/** Hold the whole pose for so many frames, still or creeping on. */
function Hold({ motion, frame, room }: { motion: Motion; frame: number; room: number }) {
  const [frames, setFrames] = useState(4);
  const [drift, setDrift] = useState(0);
  const fits = frames < room;
  return (
    <div className="fields mt-2">
      <label htmlFor="hold-frames">Hold for</label>
      <NumberField id="hold-frames" of="HoldPose.frames" value={frames} unit="fr" onCommit={(v) => setFrames(v)} />
      <label htmlFor="hold-drift">Drift</label>
      <NumberField id="hold-drift" of="HoldPose.drift" value={drift} unit="%" digits={0} onCommit={setDrift} />
      <span />
      <Button
        size="sm"
        variant="outline-primary"
        title={fits ? "The way to the next pose gets shorter" : "Later poses follow, to make room"}
        onClick={() => void submit({ do: "hold-pose", motion: motion.id, frame, frames, drift, follow: !fits })}
      >
        {drift > 0 ? "Hold, creeping on" : "Hold the whole pose"}
      </Button>
    </div>
  );
}

/** A breakdown at a mix of two poses, tried on the stage while it is slid. */
function Breakdown({ motion, first, next, end }: { motion: Motion; first: number; next: number; end: number }) {
  const joint = useWorkshop((w) => w.joint);
  const limbs = useWorkshop((w) => w.plan?.limbs);
  const [percent, setPercent] = useState(50);
  const [show] = useState(showing);
  const [limbOnly, setLimbOnly] = useState(false);
  const at = Math.floor((first + end) / 2);
  const limb = joint ? limbs?.[joint] : undefined;
  const channels =
    limbOnly && limb !== undefined
      ? Object.entries(motion.channels ?? {})
          .filter(([, c]) => limbs?.[c.joint] === limb)
          .map(([id]) => id)
      : null;
  const command = (p: number): Command => ({
    do: "break-down",
    motion: motion.id,
    first,
    second: next,
    at,
    percent: p,
    channels,
  });
  if (end - first < 2)
    return <p className="hint mb-0">There is no frame between this pose and the next for a breakdown.</p>;
  return (
    <div className="mt-2">
      <label className="small d-flex justify-content-between" htmlFor="breakdown">
        <span>Breakdown at frame {at + 1}</span>
        <b>{percent} %</b>
      </label>
      <Slider
        id="breakdown"
        step={5}
        of="BreakDown.percent"
        value={percent}
        onSlide={(p) => {
          setPercent(p);
          // It is looked at where it will be.
          if (get().frame !== at) goTo(at);
          show(() => tryCommand(command(p), at));
        }}
        onCommit={setPercent}
        onCancel={() => putBack()}
      />
      {limb !== undefined && (
        <Form.Check
          id="breakdown-limb"
          type="switch"
          className="small"
          label={`Only the ${limb}`}
          checked={limbOnly}
          onChange={(e) => setLimbOnly(e.target.checked)}
        />
      )}
      <div className="d-flex gap-1">
        <Button
          size="sm"
          onClick={() => {
            putBack();
            void submit(command(percent)).then((done) => done && turnTo({ frame: at, poses: [at], keys: [] }));
          }}
        >
          Put it in
        </Button>
        <Button size="sm" variant="outline-primary" onClick={() => putBack()} disabled={!get().pose}>
          Put back
        </Button>
      </div>
    </div>
  );
}
