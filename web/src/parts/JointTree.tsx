/** The skeleton as a list: what hangs on what. Drag a row onto another to link it there. */
import { useEffect, useMemo, useState } from "react";
import { ROOT, type Joint, type Puppet } from "../wire/types";
import { submit, useMotion, useWorkshop } from "../session";
import { SideMark } from "../ui/bits";
import type { Onto } from "../ui/Carrying";
import { chosenWith, Row, Rows } from "../ui/Rows";
import { takeJoints } from "../stage/scene";

interface Hung {
  joint: Joint;
  depth: number;
  /** Whether anything hangs on it. */
  holds: boolean;
}

export function treeRows(puppet: Puppet): Hung[] {
  const joints = Object.values(puppet.joints ?? {});
  const front = new Map([...(puppet.order ?? [])].reverse().map((id, i) => [puppet.pieces?.[id]?.joint, i]));
  const under = (parent: string | null, depth: number): Hung[] =>
    joints
      .filter((j) => (j.parent ?? null) === parent)
      .sort((a, b) => Number(a.handle) - Number(b.handle) || (front.get(a.id) ?? 0) - (front.get(b.id) ?? 0))
      .flatMap((joint) => {
        const below = under(joint.id, depth + 1);
        return [{ joint, depth, holds: below.length > 0 }, ...below];
      });
  return under(null, 0);
}

/** The rows are linked by dragging one onto another, or several of them are taken in hand. */
export function JointTree({ puppet, linking }: { puppet: Puppet; linking: boolean }) {
  const joint = useWorkshop((w) => w.joint);
  const joints = useWorkshop((w) => w.joints);
  const bench = useWorkshop((w) => w.bench);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const motion = useMotion();
  const rows = useMemo(() => treeRows(puppet), [puppet]);
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const fold = (id: string, open: boolean) =>
    setFolded((before) => new Set(open ? [...before].filter((f) => f !== id) : [...before, id]));
  // What is chosen elsewhere is shown, whatever was folded away.
  useEffect(() => {
    const above = new Set<string>();
    for (let at = joint && puppet.joints?.[joint]?.parent; at; at = puppet.joints?.[at]?.parent) above.add(at);
    setFolded((before) =>
      [...before].some((f) => above.has(f)) ? new Set([...before].filter((f) => !above.has(f))) : before,
    );
  }, [joint, puppet.joints]);
  const shown = useMemo(() => {
    let deeper = Infinity;
    return rows.filter(({ joint: j, depth }) => {
      if (depth > deeper) return false;
      deeper = folded.has(j.id) ? depth : Infinity;
      return true;
    });
  }, [rows, folded]);
  const keyed = useMemo(() => {
    if (bench !== "motion") return new Set<string>();
    return new Set(
      Object.values(motion?.channels ?? {})
        .filter((c) => c.keys?.[String(frame)])
        .map((c) => c.joint),
    );
  }, [motion, frame, bench]);

  const onto = (parent: string | null): Onto | null =>
    linking
      ? {
          takes: ({ kind, id }) => kind === "joint" && id !== parent,
          drop: ({ id }) => void submit({ do: "link-joint", puppet: puppet.id, joint: id, parent }),
        }
      : null;

  const ids = [ROOT, ...shown.map((r) => r.joint.id)];
  return (
    <Rows
      kind="tree"
      label="What hangs on what"
      ids={ids}
      fold={fold}
      multiple={!linking}
      chosen={joints}
      choose={(id, how) => takeJoints(linking ? [id] : chosenWith(ids, joints, id, how))}
    >
      <Row id={ROOT} level={1} chosen={joints.includes(ROOT)} onto={onto(null)}>
        <i className="bi bi-pin-angle" aria-hidden="true" />
        <span className="name">Whole puppet</span>
        {keyed.has(ROOT) && <span className="key-dot" title="Has a key here" />}
      </Row>
      {shown.map(({ joint: j, depth, holds }) => (
        <Row
          key={j.id}
          id={j.id}
          level={depth + 2}
          chosen={joints.includes(j.id)}
          open={holds ? !folded.has(j.id) : undefined}
          carried={linking ? { kind: "joint", id: j.id, name: j.name } : null}
          onto={onto(j.id)}
          style={{ paddingLeft: 8 + Math.min(depth, 7) * 13 }}
        >
          {j.handle ? (
            <i className="bi bi-diamond rusty" aria-hidden="true" />
          ) : holds ? (
            // The keys fold by the row itself.
            <span
              className="fold-mark"
              aria-hidden="true"
              title={folded.has(j.id) ? "Show what hangs on it" : "Fold away what hangs on it"}
              onClick={(e) => {
                e.stopPropagation();
                fold(j.id, folded.has(j.id));
              }}
            >
              <i className={`bi bi-chevron-${folded.has(j.id) ? "right" : "down"}`} />
            </span>
          ) : (
            <span className="faint twig" aria-hidden="true">
              {depth > 0 ? "└" : "·"}
            </span>
          )}
          <span className="name" title={j.name}>
            {j.name}
          </span>
          {keyed.has(j.id) && <span className="key-dot" title="Has a key here" />}
          <SideMark side={j.side} />
        </Row>
      ))}
    </Rows>
  );
}
