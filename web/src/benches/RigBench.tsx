/** Bench 2: link the pieces into a puppet, and try it. */
import { useEffect, useMemo, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useShallow } from "zustand/react/shallow";
import type { Point, Puppet } from "../api/types";
import { BodyMap } from "../parts/BodyMap";
import { IconButton, PanelHead } from "../parts/bits";
import { JointTree } from "../parts/JointTree";
import { PuppetPicker } from "../parts/PuppetPicker";
import { jointPlace, sceneAt, usePuppetBox } from "../stage/scene";
import { Stage } from "../stage/Stage";
import { LinkTool, type Reaching } from "../stage/tools/link";
import { PoseTool } from "../stage/tools/pose";
import { useShortcuts, type Shortcut } from "../state/shortcuts";
import { get, set, submit, usePuppet, useWorkshop, watch, type Bench } from "../state/workshop";

type Mode = "link" | "try";

const unlink = () => {
  const { puppet, joint } = get();
  if (puppet && joint && joint !== "puppet") void submit({ do: "link-joint", puppet, joint, parent: null });
};

export function RigBench({ go }: { go: (bench: Bench) => void }) {
  const puppet = usePuppet();
  const joint = useWorkshop((w) => w.joint);
  const trial = useWorkshop((w) => w.pose !== null);
  const [mode, setMode] = useState<Mode>("link");
  const [pull, setPull] = useState<"turn" | "move">("turn");
  const [reaching, setReaching] = useState<Reaching | null>(null);
  const puppetId = puppet?.id;

  useEffect(() => {
    if (puppetId) watch({ puppet: puppetId, motion: null, blocking: false });
  }, [puppetId]);

  // Leaving the trial, by whatever way, puts everything back: the tried pose is never kept anywhere.
  const to = (next: Mode) => {
    set({ pose: null });
    setMode(next);
  };

  const tool = useMemo(
    () => (mode === "link" ? new LinkTool(setReaching) : new PoseTool({ pull: () => pull, whole: () => get().joint === "puppet" && !get().pieces.length, done: () => undefined })),
    [mode, pull],
  );
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: ["l"], does: "Link pieces", run: () => to("link") },
      { keys: ["t"], does: "Try a pose", run: () => to("try") },
      { keys: ["u"], does: "Unlink the selected joint", run: unlink },
      { keys: ["Escape"], does: "Put the trial pose back", run: () => set({ pose: null }) },
    ],
    [],
  );
  useShortcuts(shortcuts);
  const focus = usePuppetBox(puppet);
  const empty = !puppet || !Object.keys(puppet.pieces ?? {}).length;
  return (
    <>
      <aside className="left" aria-label="Puppet">
        <PuppetPicker />
        <BodyMap />
        <div className="card-sheet d-flex flex-column flex-grow-1" style={{ minHeight: 0 }}>
          <PanelHead title="What hangs on what" />
          {puppet && <JointTree puppet={puppet} linking />}
        </div>
      </aside>
      <section className="stage-cell" aria-label="Stage">
        <div className="stage-bar">
          <IconButton icon="link-45deg" label="Link: drag from a piece to the piece it hangs on" keys="l" text="Link" pressed={mode === "link"} onClick={() => to("link")} />
          <IconButton icon="person-arms-up" label="Try a pose: nothing of it is kept" keys="t" text="Try a pose" pressed={mode === "try"} onClick={() => to("try")} />
          {mode === "try" && (
            <>
              <span className="divider" />
              <IconButton icon="arrow-clockwise" label="Pull to turn" text="Turn" pressed={pull === "turn"} onClick={() => setPull("turn")} />
              <IconButton icon="arrows-move" label="Pull to move" text="Move" pressed={pull === "move"} onClick={() => setPull("move")} />
            </>
          )}
          <span className="divider" />
          <IconButton icon="x-circle" label="Unlink the selected joint; it stays where it is" keys="u" text="Unlink" disabled={!joint || joint === "puppet" || !puppet?.joints?.[joint]?.parent} onClick={unlink} />
          <span className="flex-grow-1" />
          {!empty && (
            <Button size="sm" onClick={() => go("motion")}>
              Move it on the Motion bench <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
            </Button>
          )}
        </div>
        <Stage tool={tool} focus={focus} tried={trial} label={mode === "link" ? "Stage: drag from a piece to the piece it hangs on" : "Stage: pull pieces to try the puppet"} overlay={(to) => puppet && <Skeleton puppet={puppet} to={to} reaching={reaching} lines={mode === "link" || !trial} />}>
          {trial && mode === "try" && (
            <div className="ribbon">
              Trial pose: nothing of it is kept
              <button type="button" className="btn btn-sm btn-light" onClick={() => set({ pose: null })}>
                Put back <span className="key-cap text-dark bg-white ms-1">Esc</span>
              </button>
            </div>
          )}
          {empty && (
            <div className="empty">
              <div className="card-sheet">
                <h2 className="h4">No pieces to link yet</h2>
                <p className="mb-3">A rig joins pieces at their pins. Bring in art on the Pieces bench first.</p>
                <Button onClick={() => go("pieces")}>Go to the Pieces bench</Button>
              </div>
            </div>
          )}
        </Stage>
      </section>
      <aside className="right" aria-label="Details">{puppet && <JointDetails puppet={puppet} joint={joint} />}</aside>
    </>
  );
}

function JointDetails({ puppet, joint }: { puppet: Puppet; joint: string | null }) {
  const found = joint ? puppet.joints?.[joint] : undefined;
  const joints = Object.values(puppet.joints ?? {});
  const loose = joints.filter((j) => !j.parent).length;
  if (!found)
    return (
      <div className="card-sheet">
        <h2 className="heading mb-2">{puppet.name}</h2>
        <p className="mb-1">
          {joints.length} joints, {loose} of them hanging on the puppet itself.
        </p>
        <p className="hint">Drag from a piece to the piece it hangs on: hand to forearm, forearm to upper arm, upper arm to torso. The order does not matter, and nothing ever jumps.</p>
        <p className="hint">Or drag rows in the list at the left. Drop a row on “Whole puppet” to unlink it.</p>
      </div>
    );
  const rest = found.rest;
  return (
    <div className="card-sheet">
      <h2 className="heading mb-2">{found.name}</h2>
      <label htmlFor="hangs-on" className="faint small">
        Hangs on
      </label>
      <Form.Select id="hangs-on" size="sm" value={found.parent ?? ""} onChange={(e) => void submit({ do: "link-joint", puppet: puppet.id, joint: found.id, parent: e.target.value || null })}>
        <option value="">the puppet itself</option>
        {joints
          .filter((j) => j.id !== found.id)
          .sort((a, b) => a.name.localeCompare(b.name))
          .map((j) => (
            <option key={j.id} value={j.id}>
              {j.name}
            </option>
          ))}
      </Form.Select>
      <p className="hint">
        At rest it lies {rest?.x?.toFixed(1)} u across and {rest?.y?.toFixed(1)} u down from {found.parent ? "the pin it hangs on" : "the stage's corner"}
        {Math.abs(rest?.angle ?? 0) > 0.05 ? `, turned ${rest?.angle?.toFixed(1)}°` : ""}.
      </p>
      <p className="hint">{joints.filter((j) => j.parent === found.id).map((j) => j.name).join(", ") || "Nothing"} {joints.filter((j) => j.parent === found.id).length === 1 ? "hangs" : "hang"} on it.</p>
    </div>
  );
}

function Skeleton({ puppet, to, reaching, lines }: { puppet: Puppet; to: (p: Point) => Point; reaching: Reaching | null; lines: boolean }) {
  const { plan, pose, joint } = useWorkshop(useShallow((w) => ({ plan: w.plan, pose: w.pose, joint: w.joint })));
  const scene = sceneAt(plan, pose, 0);
  if (!scene || plan?.watch.puppet !== puppet.id) return null;
  const place = (id: string) => {
    const found = jointPlace(scene, id);
    return found && to(found);
  };
  const joints = Object.values(puppet.joints ?? {});
  return (
    <>
      {joints.map((j) => {
        const [here, above] = [place(j.id), j.parent ? place(j.parent) : null];
        if (!here || !above) return null;
        return (
          <g key={`${j.id}-link`} opacity={lines ? 1 : 0.55}>
            <Strap from={above} to={here} fill={`var(--${j.side})`} />
          </g>
        );
      })}
      {joints.map((j) => {
        const here = place(j.id);
        if (!here) return null;
        const [on, over] = [joint === j.id, reaching?.over === j.id];
        return (
          <g key={j.id} data-handle={`joint:${j.id}`} style={{ cursor: "pointer" }} className={on || over ? "chosen" : ""} pointerEvents="all">
            <title>{j.name}</title>
            <circle cx={here[0]} cy={here[1]} r={10} fillOpacity={0.01} />
            {(on || over) && <circle cx={here[0]} cy={here[1]} r={9.5} fill="none" stroke="#fff" strokeWidth={4} />}
            <circle className="pin-dot" cx={here[0]} cy={here[1]} r={on || over ? 6.5 : 4.6} style={{ stroke: on || over ? undefined : `var(--${j.side})` }} />
          </g>
        );
      })}
      {reaching && place(reaching.from) && (
        <g pointerEvents="none">
          <path d={`M${place(reaching.from)!.join(" ")}L${to(reaching.to).join(" ")}`} stroke="#fff" strokeWidth={6} strokeLinecap="round" />
          <path d={`M${place(reaching.from)!.join(" ")}L${to(reaching.to).join(" ")}`} stroke="#6a3fb5" strokeWidth={3} strokeDasharray="8 5" strokeLinecap="round" />
          {reaching.over && (
            <text x={to(reaching.to)[0] + 14} y={to(reaching.to)[1] - 10} fontSize={14} fill="#6a3fb5" stroke="#fff" strokeWidth={4} paintOrder="stroke">
              hang on {puppet.joints?.[reaching.over]?.name}
            </text>
          )}
        </g>
      )}
    </>
  );
}

/** A link as a strap of paper: broad at the joint it hangs on, narrow where it hangs. */
function Strap({ from, to, fill }: { from: Point; to: Point; fill: string }) {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const long = Math.hypot(dx, dy);
  if (long < 2) return null;
  const [nx, ny] = [(-dy / long) * 4.6, (dx / long) * 4.6];
  const d = `M${from[0] + nx} ${from[1] + ny}L${to[0] + nx * 0.25} ${to[1] + ny * 0.25}L${to[0] - nx * 0.25} ${to[1] - ny * 0.25}L${from[0] - nx} ${from[1] - ny}Z`;
  return <path d={d} fill={fill} fillOpacity={0.78} stroke="#fffdf8" strokeWidth={1.4} strokeLinejoin="round" pointerEvents="none" />;
}
