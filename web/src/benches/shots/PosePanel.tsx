/** Posing who is picked, for this shot only: how the hand pulls, and a joint turned, moved or sized by numbers. */
import { get, useWorkshop, see, pickOut } from "../../session";
import { PULLS } from "../../parts/pulls";
import { Fold } from "../../ui/Fold";
import { NumberRow } from "../../ui/fields";
import type { Member } from "../../wire/types";
import { keep } from "./posing";
import { Select } from "../../ui/Select";

export function PosePanel({ member }: { member: Member }) {
  const posing = useWorkshop((w) => w.posing);
  const joint = useWorkshop((w) => w.joint);
  const over = useWorkshop((w) => w.poseOver);
  const frame = useWorkshop((w) => (w.playing ? 0 : w.frame));
  const puppet = useWorkshop((w) => w.documents[member.puppet]);
  if (!posing || puppet?.kind !== "puppet") return null;
  const joints = Object.values(puppet.joints ?? {});
  const chosen = joint ? puppet.joints?.[joint] : undefined;
  const more = (kind: string, value: number[]) => keep(member.id, get().frame, { [`${joint}.${kind}`]: value }, true);
  return (
    <Fold title="Pose in this shot" note={`frame ${frame + 1}`}>
      <p className="faint small mb-2">Pull a joint or a piece. It is laid over the motion in this shot alone.</p>
      <div className="pass-switch mb-2" role="group" aria-label="Pulling">
        {PULLS.map((p) => (
          <button
            key={p.id}
            type="button"
            className="icon-btn"
            aria-pressed={posing === p.id}
            onClick={() => see({ posing: p.id })}
          >
            {p.text}
          </button>
        ))}
      </div>
      <div className="fields">
        <NumberRow
          id="o-over"
          label="Comes and goes over"
          of="PoseInShot.over"
          value={over}
          unit="frames"
          onCommit={(v) => see({ poseOver: v })}
        />
        {Object.values(puppet.dials ?? {}).map((d) => (
          <NumberRow
            key={d.id}
            id={`o-dial-${d.id}`}
            label={d.turns ? "Turn it round by" : `${d.name} by`}
            value={0}
            unit={d.turns ? "°" : "steps"}
            digits={1}
            onCommit={(v) => v && keep(member.id, get().frame, { [`${d.id}.dial`]: [v] }, true)}
          />
        ))}
        <label htmlFor="o-joint">Joint</label>
        <Select
          id="o-joint"
          size="sm"
          value={chosen?.id ?? ""}
          onChange={(e) => pickOut({ joint: e.target.value || null })}
        >
          <option value="">none</option>
          {joints.map((j) => (
            <option key={j.id} value={j.id}>
              {j.name}
            </option>
          ))}
        </Select>
        {chosen && (
          <>
            <NumberRow
              id="o-turn"
              label="Turn it by"
              value={0}
              unit="°"
              digits={1}
              onCommit={(v) => v && more("turn", [v])}
            />
            <NumberRow
              id="o-x"
              label="Move it across by"
              value={0}
              unit="units"
              digits={1}
              onCommit={(v) => v && more("move", [v, 0])}
            />
            <NumberRow
              id="o-y"
              label="Move it down by"
              value={0}
              unit="units"
              digits={1}
              onCommit={(v) => v && more("move", [0, v])}
            />
            <NumberRow
              id="o-size"
              label="Size it to"
              of="scale.typed"
              times={100}
              value={1}
              unit="%"
              digits={0}
              onCommit={(v) => v !== 1 && more("scale", [v, v])}
            />
          </>
        )}
      </div>
    </Fold>
  );
}
