/** Bench 4: mouths timed to words. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { Findings } from "../../parts/ChecksCard";
import { PuppetPicker } from "../../parts/PuppetPicker";
import { linesOf, useMotion, usePuppet, useWorkshop, watch, type Bench, pickOut } from "../../session";
import { Ribbon } from "../../ribbon/Ribbon";
import { Stage } from "../../stage/Stage";
import { corners, pieceOn, sceneAt, type Box } from "../../stage/scene";
import { IconButton } from "../../ui/bits";
import * as http from "../../wire/http";
import type { Exposed, Puppet } from "../../wire/types";
import { addMotion, MotionPanel } from "../../parts/MotionPanel";
import { RecipesPanel } from "../../parts/RecipesPanel";
import { EntryPanel } from "./EntryPanel";
import { useVoiceKeys, type Typing } from "./keys";
import { LinePanel, LinesPanel } from "./LinePanel";
import { FitToLine } from "../../parts/FitToLine";
import { bring } from "../../parts/sounds";
import { MouthGrid } from "./MouthGrid";
import { MouthPanel } from "./MouthPanel";
import { SheetView } from "./SheetView";

/** What the program makes of the lines, asked for again when something has changed. */
function useExposed(motion: string | undefined): Exposed | undefined {
  const production = useWorkshop((w) => w.id);
  const seq = useWorkshop((w) => w.seq);
  const [asked, setAsked] = useState(seq);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(seq), 250);
    return () => clearTimeout(timer);
  }, [seq]);
  const found = useQuery({
    queryKey: ["exposure", production, motion, asked],
    queryFn: () => http.exposure(production, motion!),
    enabled: motion !== undefined,
    placeholderData: (before) => before,
    gcTime: 10_000,
  });
  return motion ? found.data : undefined;
}

/** The place of the head on the stage: what the mouth hangs on, or some room about the mouth. */
function useHead(puppet: Puppet | undefined): Box | null {
  const plan = useWorkshop((w) => w.plan);
  const chart = puppet?.mouths;
  return useMemo(() => {
    const scene = sceneAt(plan, null, 0, null);
    const dial = puppet?.dials?.[chart?.dial ?? ""];
    const driven = dial?.stops?.flatMap((s) => Object.keys(s.values ?? {})).find((c) => c.endsWith(".show"));
    const mouth = chart?.piece ?? driven?.slice(0, -5);
    if (!scene || !puppet || !mouth || plan?.puppet !== puppet.id) return null;
    const parent = puppet.joints?.[puppet.pieces?.[mouth]?.joint ?? ""]?.parent;
    const head = parent ? pieceOn(parent) : null;
    const points = corners(scene, puppet, head ?? mouth);
    if (!points) return null;
    const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
    const box: Box = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
    const room = head ? 0.22 : 2;
    const [w, h] = [(box[2] - box[0]) * room, (box[3] - box[1]) * room];
    return [box[0] - w, box[1] - h, box[2] + w, box[3] + h];
    // Only where the puppet stands at the first frame counts, and not what it does.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [plan?.puppet, plan?.frames, puppet?.id, chart?.piece, chart?.dial, plan !== null]);
}

export function VoiceBench({ go }: { go: (bench: Bench) => void }) {
  const puppet = usePuppet();
  const motion = useMotion();
  const [puppetId, motionId] = [puppet?.id, motion?.id];
  const [typing, setTyping] = useState<Typing>("mouths");
  const [sheet, setSheet] = useState(false);
  const [whole, setWhole] = useState(false);
  const exposed = useExposed(motionId);
  const head = useHead(puppet);
  useVoiceKeys(exposed, typing);
  useEffect(() => {
    if (motionId) watch({ kind: "motion", motion: motionId, blocking: false });
    else if (puppetId) watch({ kind: "rest", puppet: puppetId });
  }, [puppetId, motionId]);
  const line = useWorkshop((w) => w.line);
  const documents = useWorkshop((w) => w.documents);
  useEffect(() => {
    const lines = linesOf({ documents, motion: motionId ?? null });
    if (!lines.some((l) => l.placed.id === line)) pickOut({ line: lines[0]?.placed.id ?? null, entry: null });
  }, [documents, motionId, line]);
  const looking = useMemo(() => ({ begin: () => null }), []);
  const drop = (event: React.DragEvent) => {
    if (!motionId || !event.dataTransfer.files.length) return;
    event.preventDefault();
    void bring([...event.dataTransfer.files], motionId);
  };
  return (
    <>
      <FitToLine />
      <section
        className="ribbon-cell"
        aria-label="Ribbon"
        onDragOver={(e) => e.dataTransfer.types.includes("Files") && e.preventDefault()}
        onDrop={drop}
      >
        {puppet && motion && <Ribbon key={motion.id} puppet={puppet} motion={motion} exposed={exposed} />}
      </section>
      <aside className="left" aria-label="Lines">
        <PuppetPicker />
        {puppet && <MotionPanel puppet={puppet} motion={motion} />}
        {motion && <LinesPanel motion={motion} />}
        {motion && <LinePanel motion={motion} />}
      </aside>
      <section className="stage-cell" aria-label="Stage">
        <div className="stage-bar">
          <IconButton
            icon="person-bounding-box"
            label={whole ? "The head in close-up" : "The whole stage"}
            text={whole ? "Head" : "Whole"}
            onClick={() => setWhole(!whole)}
          />
          <IconButton
            icon="keyboard"
            label={
              typing === "mouths"
                ? "Letters put in mouths; press to tap sounds along instead"
                : "Letters tap sounds in; press to put in mouths instead"
            }
            text={typing === "mouths" ? "Mouths" : "Sounds"}
            pressed={typing === "sounds"}
            onClick={() => setTyping(typing === "mouths" ? "sounds" : "mouths")}
          />
          <IconButton
            icon="table"
            label="The exposure sheet"
            text="Sheet"
            disabled={!motion}
            onClick={() => setSheet(true)}
          />
          <span className="flex-grow-1" />
          {motion && (
            <Button size="sm" onClick={() => go("render")}>
              Render <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
            </Button>
          )}
        </div>
        <Stage tool={looking} focus={whole ? null : head} label="Stage: the head in close-up">
          {!motion && (
            <div className="empty">
              <div className="card-sheet">
                <h2 className="h4">{puppet ? "No motion yet" : "No puppet to speak yet"}</h2>
                <p className="mb-3">
                  {puppet
                    ? `A line is spoken on a motion of “${puppet.name}”.`
                    : "Bring in art on the Pieces bench and link it on the Rig bench."}
                </p>
                {puppet ? (
                  <Button onClick={() => void addMotion(puppet.id, "Line 1")}>Start a motion</Button>
                ) : (
                  <Button onClick={() => go("pieces")}>Go to the Pieces bench</Button>
                )}
              </div>
            </div>
          )}
        </Stage>
      </section>
      <aside className="right" aria-label="Mouths">
        {puppet && <MouthGrid puppet={puppet} motion={motion} exposed={exposed} go={go} />}
        <EntryPanel />
        {motion && puppet?.mouths && <MouthPanel motion={motion} chart={puppet.mouths} exposed={exposed} />}
        {puppet && motion && <RecipesPanel puppet={puppet} motion={motion} />}
        {motion && <Findings found={exposed?.findings ?? []} none="No likely mistakes in the lines." />}
      </aside>
      {sheet && motion && <SheetView motion={motion} close={() => setSheet(false)} />}
    </>
  );
}
