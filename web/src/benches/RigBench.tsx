/** Bench 2: make a puppet that holds together, and try it. */
import { useCallback, useEffect, useMemo, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useShallow } from "zustand/react/shallow";
import type { Point, Pull, Puppet } from "../wire/types";
import { AttachCard } from "../parts/AttachCard";
import { BodyMap } from "../parts/BodyMap";
import { ChecksCard } from "../parts/ChecksCard";
import { DialsCard } from "../parts/DialsCard";
import { JointCard } from "../parts/JointCard";
import { JointTree } from "../parts/JointTree";
import { PuppetPicker } from "../parts/PuppetPicker";
import { ReachCard } from "../parts/ReachCard";
import { IconButton, PanelHead } from "../ui/bits";
import { pieceMatrix, sceneAt, usePuppetBox } from "../stage/scene";
import { Ghosts, Skeleton } from "../stage/Skeleton";
import { Stage } from "../stage/Stage";
import { jointTool } from "../stage/tools/joints";
import { limitTool, type Wedge } from "../stage/tools/limits";
import { linkTool, type Reaching } from "../stage/tools/link";
import { paintTool } from "../stage/tools/paint";
import { poseTool } from "../stage/tools/pose";
import { useShortcuts, type Shortcut } from "../ui/shortcuts";
import { type Bench, get, putBack, set, submit, usePuppet, useWorkshop, watch } from "../session";

type Mode = "link" | "joints" | "handles" | "paint" | "try";

const unlink = () => {
  const { puppet, joint } = get();
  if (puppet && joint && joint !== "puppet") void submit({ do: "link-joint", puppet, joint, parent: null });
};

const removeJoint = () => {
  const { puppet, joint } = get();
  if (puppet && joint && joint !== "puppet")
    void submit({ do: "remove-joints", puppet, joints: [joint] }).then((done) => done && set({ joint: null }));
};

const LABELS: Record<Mode, string> = {
  link: "Stage: drag from a piece to the piece it hangs on",
  joints: "Stage: click to draw joints, each hanging on the selected one",
  handles: "Stage: click to set handles",
  paint: "Stage: paint weights of the selected joint",
  try: "Stage: pull pieces to try the puppet",
};

export function RigBench({ go }: { go: (bench: Bench) => void }) {
  const puppet = usePuppet();
  const { joint, pieces, trial } = useWorkshop(
    useShallow((w) => ({
      joint: w.joint,
      pieces: w.pieces,
      trial: w.pose !== null && Object.keys(w.pose.tried).length > 0,
    })),
  );
  // What is likely wrong comes first; a rig with nothing to say says so last.
  const troubled = useWorkshop((w) => w.rig?.puppet === puppet?.id && (w.rig?.findings.length ?? 0) > 0);
  const [mode, setMode] = useState<Mode>("link");
  const [pull, setPull] = useState<Pull>("turn");
  const [reaching, setReaching] = useState<Reaching | null>(null);
  const [limits, setLimits] = useState<Wedge | null>(null);
  const [brush, setBrush] = useState({ radius: 30, amount: 0.4 });
  const [brushAt, setBrushAt] = useState<Point | null>(null);
  const puppetId = puppet?.id;

  useEffect(() => {
    if (puppetId) watch({ kind: "rest", puppet: puppetId });
  }, [puppetId]);

  // Leaving the trial, by whatever way, puts everything back: the tried pose is never kept anywhere.
  const to = useCallback((next: Mode) => {
    putBack();
    setMode(next);
  }, []);

  const tool = useMemo(() => {
    const inner = {
      link: () => linkTool(setReaching),
      joints: () => jointTool({ handles: false, sheet: () => null }),
      handles: () => jointTool({ handles: true, sheet: () => get().pieces[0] ?? null }),
      paint: () => paintTool(() => brush, setBrushAt),
      try: () =>
        poseTool({
          pull: () => pull,
          whole: () => get().joint === "puppet" && !get().pieces.length,
          done: () => undefined,
        }),
    }[mode]();
    return limitTool(inner, setLimits);
  }, [mode, pull, brush]);

  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: ["l"], does: "Link pieces", run: () => to("link") },
      { keys: ["j"], does: "Draw joints", run: () => to("joints") },
      { keys: ["h"], does: "Set handles", run: () => to("handles") },
      { keys: ["t"], does: "Try a pose", run: () => to("try") },
      { keys: ["u"], does: "Unlink the selected joint", run: unlink },
      { keys: ["Delete", "Backspace"], does: "Remove the selected joint or handle", run: removeJoint },
      {
        keys: ["i"],
        does: "Show the selected piece alone",
        run: () => set({ isolated: !get().isolated && get().pieces.length > 0 }),
      },
      {
        keys: ["Escape"],
        does: "Put the trial pose back, or select nothing",
        run: () => (get().pose ? putBack() : set({ joint: null, pieces: [] })),
      },
    ],
    [to],
  );
  useShortcuts(shortcuts);
  const focus = usePuppetBox(puppet);
  const empty = !puppet || !(Object.keys(puppet.pieces ?? {}).length || Object.keys(puppet.joints ?? {}).length);
  const found = joint ? puppet?.joints?.[joint] : undefined;
  const piece = puppet && pieces.length === 1 ? puppet.pieces?.[pieces[0]!] : undefined;
  const shown: Puppet | undefined =
    puppet && limits && puppet.joints?.[limits.joint]
      ? {
          ...puppet,
          joints: {
            ...puppet.joints,
            [limits.joint]: { ...puppet.joints[limits.joint]!, limits: { low: limits.low, high: limits.high } },
          },
        }
      : puppet;
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
              <IconButton
                icon="arrow-clockwise"
                label="Pull to turn"
                pressed={pull === "turn"}
                onClick={() => setPull("turn")}
              />
              <IconButton
                icon="arrows-move"
                label="Pull to move"
                pressed={pull === "move"}
                onClick={() => setPull("move")}
              />
            </>
          )}
          {mode === "paint" && (
            <>
              <span className="divider" />
              <label className="faint small" htmlFor="brush-radius">
                Brush
              </label>
              <Form.Range
                id="brush-radius"
                style={{ width: 80 }}
                min={5}
                max={150}
                value={brush.radius}
                onChange={(e) => setBrush({ ...brush, radius: Number(e.target.value) })}
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
            disabled={!found?.parent}
            onClick={unlink}
          />
          <span className="flex-grow-1" />
          {!empty && (
            <Button size="sm" onClick={() => go("motion")}>
              Motion <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
            </Button>
          )}
        </div>
        <Stage
          tool={tool}
          focus={focus}
          tried={trial}
          label={LABELS[mode]}
          overlay={(at) =>
            shown && (
              <>
                {(mode === "paint" || mode === "handles") && piece && (
                  <MeshOver puppet={shown} piece={piece.id} to={at} />
                )}
                {mode === "try" && trial && <Ghosts puppet={shown} to={at} />}
                <Skeleton
                  puppet={shown}
                  to={at}
                  reaching={reaching}
                  loose={mode !== "joints" && mode !== "handles"}
                  links={mode === "paint" ? 0.25 : mode === "try" && trial ? 0.55 : 1}
                  limits
                />
                {brushAt && (
                  <circle
                    cx={at(brushAt)[0]}
                    cy={at(brushAt)[1]}
                    r={at([brushAt[0] + brush.radius, 0])[0] - at(brushAt)[0]}
                    fill="var(--violet)"
                    fillOpacity={0.12}
                    stroke="var(--violet)"
                    strokeDasharray="4 3"
                  />
                )}
              </>
            )
          }
        >
          {trial && mode === "try" && (
            <div className="ribbon">
              Trial pose: nothing of it is kept
              <button type="button" className="btn btn-sm btn-light" onClick={() => putBack()}>
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
      <aside className="right" aria-label="Details">
        {puppet && (
          <>
            {troubled && <ChecksCard puppet={puppet} />}
            {found ? <JointCard key={found.id} puppet={puppet} joint={found} /> : <Hints puppet={puppet} mode={mode} />}
            {piece && <AttachCard key={`${piece.id}-attach`} puppet={puppet} piece={piece} mode={mode} to={to} />}
            <ReachCard puppet={puppet} joint={found} />
            <DialsCard puppet={puppet} />
            {!troubled && <ChecksCard puppet={puppet} />}
          </>
        )}
      </aside>
    </>
  );
}

function Hints({ puppet, mode }: { puppet: Puppet; mode: Mode }) {
  const joints = Object.values(puppet.joints ?? {});
  const bones = joints.filter((j) => !j.handle);
  const text: Record<Mode, string> = {
    link: "Drag from a piece to the piece it hangs on: hand to forearm, forearm to upper arm, upper arm to torso. The order does not matter, and nothing ever jumps.",
    joints:
      "Click along a limb, from the body outwards: each joint hangs on the one before. Select another joint to go on from there; Shift-click begins anew.",
    handles:
      "Select a piece (Alt-click) and click where it should be held. A handle hangs on the selected joint or handle.",
    paint: "Select a joint, then paint where it should pull more. Alt takes away.",
    try: "Pull anything, handles too. Nothing of it is kept.",
  };
  return (
    <div className="card-sheet">
      <h2 className="heading mb-1">{puppet.name}</h2>
      <p className="mb-1 small">
        {bones.length} joints, {bones.filter((j) => !j.parent).length} on the puppet itself
        {joints.length > bones.length ? `, ${joints.length - bones.length} handles` : ""}.
      </p>
      <p className="hint m-0">{text[mode]}</p>
    </div>
  );
}

/** The mesh of the selected piece over its picture, shaded by the selected joint's weights. */
function MeshOver({ puppet, piece, to }: { puppet: Puppet; piece: string; to: (p: Point) => Point }) {
  const { plan, pose, mesh } = useWorkshop(useShallow((w) => ({ plan: w.plan, pose: w.pose, mesh: w.mesh })));
  const scene = sceneAt(plan, pose, 0);
  const m = scene && pieceMatrix(scene, piece);
  if (!m || !mesh || mesh.piece !== piece || plan?.puppet !== puppet.id) return null;
  const place = (i: number): Point => {
    const [x, y] = [mesh.vertices[i * 2]!, mesh.vertices[i * 2 + 1]!];
    return to([m[0]! * x + m[2]! * y + m[4]!, m[1]! * x + m[3]! * y + m[5]!]);
  };
  const shades = new Map<number, string>();
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const corners = [mesh.triangles[t]!, mesh.triangles[t + 1]!, mesh.triangles[t + 2]!];
    const weight = mesh.weights ? corners.reduce((sum, i) => sum + mesh.weights![i]!, 0) / 3 : 0;
    const step = Math.round(weight * 10);
    shades.set(
      step,
      `${shades.get(step) ?? ""}M${corners
        .map((i) =>
          place(i)
            .map((v) => v.toFixed(1))
            .join(" "),
        )
        .join("L")}Z`,
    );
  }
  return (
    <g pointerEvents="none" data-mesh={piece}>
      {[...shades].map(([step, d]) => (
        <path
          key={step}
          d={d}
          fill="var(--rust)"
          fillOpacity={mesh.weights ? step * 0.075 : 0}
          stroke="var(--ink)"
          strokeOpacity={0.35}
          strokeWidth={0.7}
        />
      ))}
    </g>
  );
}
