/** Bench 3: pose, key, time and repeat. */
import { useEffect, useMemo } from "react";
import { Button } from "react-bootstrap";
import { BodyMap } from "../../parts/BodyMap";
import { MotionChecks } from "../../parts/ChecksCard";
import { useImport } from "../../parts/ImportArt";
import { JointTree } from "../../parts/JointTree";
import { PuppetPicker } from "../../parts/PuppetPicker";
import { ReferenceCard } from "../../parts/ReferenceCard";
import type { Motion } from "../../wire/types";
import { type Bench, goTo, putBack, useMotion, usePuppet, useWorkshop, watch } from "../../session";
import { ChartPanel } from "../../sheet/ChartPanel";
import { Stage } from "../../stage/Stage";
import { captureTool } from "../../stage/tools/capture";
import { poseTool } from "../../stage/tools/pose";
import { PanelHead } from "../../ui/bits";
import { Bar } from "./Bar";
import { BookPanel } from "./BookPanel";
import { CaptureRibbon } from "./CaptureRibbon";
import { addMotion, MotionPanel } from "../../parts/MotionPanel";
import { key, keyTried } from "./commands";
import { GroundPanel } from "./GroundPanel";
import { useMotionKeys, usePosingHand } from "./keys";
import { Posing } from "./overlays";
import { MorphPanel } from "./MorphPanel";
import { Controls, JointValues } from "./panels";
import { PosePanel } from "./PosePanel";
import { RecipesPanel } from "../../parts/RecipesPanel";
import { SeenPanel } from "./SeenPanel";
import { Timing } from "./Timing";
import { useWay, WayOverlay } from "./WayOverlay";

/** Says so where a key would land just beside a pose. */
function Beside({ motion }: { motion: Motion }) {
  const beside = useWorkshop((w) => (w.report?.motion === motion.id ? w.report.beside : undefined));
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const pose = beside?.[String(frame)];
  if (pose === undefined) return null;
  const label = motion.poses?.[String(pose)]?.label;
  return (
    <div className="beside card-sheet" role="status">
      <i className="bi bi-exclamation-triangle" aria-hidden="true" /> A key here lies beside{" "}
      {label ? `“${label}”` : "the pose"} at {pose + 1}.
      <button type="button" className="icon-btn" onClick={() => goTo(pose)}>
        To the pose
      </button>
    </div>
  );
}

export function MotionBench({ go }: { go: (bench: Bench) => void }) {
  const puppet = usePuppet();
  const motion = useMotion();
  const blocking = useWorkshop((w) => w.blocking);
  const pose = useWorkshop((w) => w.pose);
  const hand = usePosingHand();
  const { pull, whole, keying } = hand;
  const [puppetId, motionId] = [puppet?.id, motion?.id];

  useEffect(() => {
    if (motionId) watch({ kind: "motion", motion: motionId, blocking });
    else if (puppetId) watch({ kind: "rest", puppet: puppetId });
  }, [puppetId, motionId, blocking]);

  const capturing = useWorkshop((w) => w.capture !== null);
  const posing = useMemo(
    () =>
      poseTool({
        pull: () => pull,
        whole: () => whole,
        several: true,
        done: (tried, frame) => {
          if (keying) void key(tried, frame);
        },
      }),
    [pull, whole, keying],
  );
  const recorder = useMemo(() => captureTool(), []);
  const tool = capturing ? recorder : posing;
  useMotionKeys(hand);
  useWay(motionId);
  const { choose, parts } = useImport();
  const playing = useWorkshop((w) => w.playing);

  const empty = !puppet || !Object.keys(puppet.pieces ?? {}).length;
  const tried = pose !== null && Object.keys(pose.tried).length > 0;
  return (
    <>
      <aside className="left" aria-label="Puppet">
        <PuppetPicker />
        <BodyMap />
        <div className="card-sheet d-flex flex-column flex-grow-1 shrinks">
          <PanelHead title="Joints" />
          {puppet && <JointTree puppet={puppet} linking={false} />}
        </div>
      </aside>
      <section className="stage-cell" aria-label="Stage">
        <Bar hand={hand} motion={motion} next={() => go("voice")} />
        <Stage
          tool={tool}
          tried={tried && !keying}
          label="Stage: pull a piece to pose it"
          overlay={(to) =>
            puppet && (
              <>
                <Posing puppet={puppet} to={to} whole={whole}>
                  {!playing && <WayOverlay puppet={puppet} to={to} />}
                </Posing>
              </>
            )
          }
        >
          {tried && !keying && !capturing && (
            <div className="ribbon">
              Tried, not keyed
              <button type="button" className="btn btn-sm btn-light" onClick={() => void keyTried()}>
                Key it <span className="key-cap text-dark bg-white ms-1">K</span>
              </button>
              <button type="button" className="btn btn-sm btn-outline-light" onClick={() => putBack()}>
                Put back
              </button>
            </div>
          )}
          {puppet && motion && <CaptureRibbon puppet={puppet} />}
          {blocking && !capturing && !(tried && !keying) && (
            <div className="ribbon even">Blocking: poses are held until the next</div>
          )}
          {keying && motion && <Beside motion={motion} />}
          {(empty || !motion) && (
            <div className="empty">
              <div className="card-sheet">
                <h2 className="h4">{empty ? "No puppet to move yet" : "No motion yet"}</h2>
                <p className="mb-3">
                  {empty
                    ? "Bring in art on the Pieces bench and link it on the Rig bench."
                    : `A motion is a timed performance of “${puppet!.name}”: a wave, a walk, a blink.`}
                </p>
                {empty ? (
                  <Button onClick={() => go("pieces")}>Go to the Pieces bench</Button>
                ) : (
                  <Button onClick={() => void addMotion(puppet!.id, "Motion 1")}>Start a motion</Button>
                )}
              </div>
            </div>
          )}
        </Stage>
      </section>
      {parts}
      <aside className="right" aria-label="Details">
        {puppet && <MotionPanel puppet={puppet} motion={motion} />}
        {motion && <PosePanel key={`pose ${motion.id}`} motion={motion} />}
        {puppet && motion && <MorphPanel key={`morph ${motion.id}`} puppet={puppet} motion={motion} />}
        {motion && <ChartPanel key={motion.id} motion={motion} />}
        {puppet && motion && <JointValues puppet={puppet} motion={motion} />}
        {puppet && motion && <Controls puppet={puppet} motion={motion} />}
        {puppet && motion && <RecipesPanel puppet={puppet} motion={motion} />}
        {puppet && motion && <GroundPanel puppet={puppet} motion={motion} />}
        {puppet && motion && <BookPanel puppet={puppet} motion={motion} />}
        {motion && <SeenPanel />}
        {puppet && motion && <ReferenceCard puppet={puppet} choose={() => choose({ purpose: "reference" })} />}
        {motion && <MotionChecks motion={motion.id} />}
      </aside>
      <section className="bottom" aria-label="Timing">
        {puppet && motion && <Timing key={motion.id} puppet={puppet} motion={motion} />}
      </section>
    </>
  );
}
