/** Bench 2: make a puppet that holds together, and try it. */
import { useCallback, useEffect, useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { useShallow } from "zustand/react/shallow";
import { AttachCard, RidesOn } from "../../parts/AttachCard";
import { Fold } from "../../ui/Fold";
import { several } from "../../ui/text";
import { BodyMap } from "../../parts/BodyMap";
import { ChecksCard } from "../../parts/ChecksCard";
import { DialsCard } from "../../parts/DialsCard";
import { TurnCard } from "../../parts/turn/TurnCard";
import { JointCard } from "../../parts/JointCard";
import { JointTree } from "../../parts/JointTree";
import { PuppetPicker } from "../../parts/PuppetPicker";
import { ReachCard } from "../../parts/ReachCard";
import { RigShelf } from "../../parts/reuse/RigShelf";
import { useRigging } from "../../parts/rigging/proposal";
import { ProposedOver } from "../../parts/rigging/ProposedOver";
import { ProposedRig } from "../../parts/rigging/ProposedRig";
import { type Bench, get, putBack, usePuppet, useWorkshop, watch } from "../../session";
import { usePuppetBox } from "../../stage/scene";
import { Ghosts, Skeleton } from "../../stage/Skeleton";
import { Stage } from "../../stage/Stage";
import { jointTool } from "../../stage/tools/joints";
import { limitTool, type Wedge } from "../../stage/tools/limits";
import { linkTool, type Reaching } from "../../stage/tools/link";
import { paintTool } from "../../stage/tools/paint";
import { poseTool } from "../../stage/tools/pose";
import { PanelHead } from "../../ui/bits";
import type { Point, Pull, Puppet } from "../../wire/types";
import { Bar } from "./Bar";
import { LABELS, type Mode } from "./commands";
import { useRigKeys } from "./keys";
import { BrushRing, MeshOver } from "./overlays";
import { Hints, NewJoint, TrialCard } from "./panels";

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
  const rigging = useRigging(puppet);

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

  useRigKeys(mode, to);

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
        <div className="card-sheet d-flex flex-column flex-grow-1 shrinks">
          <PanelHead title="What hangs on what" />
          {puppet && <JointTree puppet={puppet} linking />}
        </div>
      </aside>
      <section className="stage-cell" aria-label="Stage">
        <Bar
          mode={mode}
          to={to}
          pull={pull}
          setPull={setPull}
          brush={brush}
          setBrush={setBrush}
          linked={!!found?.parent}
          next={empty ? null : () => go("motion")}
        />
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
                <ProposedOver puppet={shown} rigging={rigging} to={at} />
                {brushAt && <BrushRing at={brushAt} radius={brush.radius} to={at} />}
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
            <ProposedRig puppet={puppet} rigging={rigging} />
            {troubled && <ChecksCard puppet={puppet} />}
            {(mode === "joints" || mode === "handles") && (
              <NewJoint key={mode} puppet={puppet} handle={mode === "handles"} joint={found} />
            )}
            {mode === "try" && <TrialCard puppet={puppet} joint={found} />}
            {found ? <JointCard key={found.id} puppet={puppet} joint={found} /> : <Hints puppet={puppet} mode={mode} />}
            {piece && <AttachCard key={`${piece.id}-attach`} puppet={puppet} piece={piece} mode={mode} to={to} />}
            {pieces.length > 1 && (
              <Fold title="How they ride" note={several(pieces.length, "piece")} open>
                <div className="fields">
                  <label htmlFor="ride-all">Ride on</label>
                  <RidesOn id="ride-all" puppet={puppet} pieces={pieces} />
                </div>
              </Fold>
            )}
            <ReachCard puppet={puppet} joint={found} />
            <DialsCard puppet={puppet} />
            <RigShelf key={`shelf ${puppet.id}`} puppet={puppet} />
            <TurnCard key={`turn ${puppet.id}`} puppet={puppet} />
            {!troubled && <ChecksCard puppet={puppet} />}
          </>
        )}
      </aside>
    </>
  );
}
