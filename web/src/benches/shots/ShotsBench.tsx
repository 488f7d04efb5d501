/** Bench 5: shots, from blocking to final motion, and the film that they make. */
import { useEffect, useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { shotOf, useShot, useSize, useWorkshop, watch, type Bench, turnTo, see } from "../../session";
import { Stage } from "../../stage/Stage";
import { AskNumbers } from "../../ui/AskNumbers";
import { IconButton } from "../../ui/bits";
import { Menu } from "../../ui/Menu";
import type { Pass, Point } from "../../wire/types";
import { AddPanel, ShotPanel } from "./ShotPanel";
import { PassSwitch } from "./PassSwitch";
import { CameraPanel, KeysPanel, SoundPanel } from "./CameraPanel";
import { CastPanel, DoesPanel, PlacePanel } from "./CastPanel";
import { CopiesPanel } from "./CopiesPanel";
import { addShot, memberOf } from "./commands";
import { FilmBench } from "./FilmBench";
import { HeldNote } from "../../parts/HeldNote";
import { useShotKeys } from "./keys";
import { Overlay } from "./Overlay";
import { useHeld } from "../../parts/overview";
import { ShotCards } from "./ShotCards";
import { ShotChecks } from "./ShotChecks";
import { ShotRows } from "./ShotRows";
import { PosePanel } from "./PosePanel";
import { togglePosing } from "./posing";
import { SpanPanel } from "./SpanPanel";
import { shotTool, type Aim } from "./tools";
import { TravelPanel } from "./TravelPanel";

export function ShotsBench({ go }: { go: (bench: Bench) => void }) {
  const shot = useShot();
  const held = useHeld(shot ? [shot] : []);
  const seenAs = useWorkshop((w) => w.seenAs);
  const through = useWorkshop((w) => w.through);
  // What lies over the stage goes along with each of these.
  useWorkshop((w) => w.shotPlan);
  useWorkshop((w) => (w.playing && w.through ? -1 : w.frame));
  useWorkshop((w) => w.guides);
  const picked = useWorkshop((w) => w.picked);
  const posing = useWorkshop((w) => w.posing !== null);
  useWorkshop((w) => w.pose);
  useWorkshop((w) => w.joint);
  const [pulled, setPulled] = useState<Aim | null>(null);
  const [wayPulled, setWayPulled] = useState<{ n: number; at: Point } | null>(null);
  const shotId = shot?.id;
  const wholeFilm = useWorkshop((w) => w.wholeFilm);
  useShotKeys();
  useEffect(() => {
    if (wholeFilm) watch({ kind: "film", seen_as: seenAs });
    else if (shotId) watch({ kind: "shot", shot: shotId, seen_as: seenAs });
  }, [shotId, seenAs, wholeFilm]);
  const tool = useMemo(() => shotTool(setPulled, setWayPulled), []);
  const [width, height] = useSize();
  const wide = useMemo<[number, number, number, number]>(
    () => [-0.3 * width, -0.3 * height, 1.3 * width, 1.3 * height],
    [width, height],
  );
  const cast =
    picked?.kind === "cast" ? shot?.cast?.[picked.id] : picked?.kind === "span" ? shot?.cast?.[picked.cast] : null;
  const member = cast?.kind === "member" ? cast : null;
  const posedPuppet = posing ? member?.puppet : undefined;
  useEffect(() => {
    // Joints are those of the puppet that is posed.
    if (posedPuppet) turnTo({ puppet: posedPuppet, joint: null });
  }, [posedPuppet]);
  const span = picked?.kind === "span" ? member?.spans?.[picked.id] : undefined;
  if (wholeFilm) return <FilmBench seenAs={seenAs} go={go} />;
  const sound = picked?.kind === "sound" ? shot?.sounds?.[picked.id] : undefined;
  return (
    <>
      <aside className="left" aria-label="Shots">
        <ShotCards />
      </aside>
      <section className="stage-cell" aria-label="Stage">
        <ShotBar pass={shot?.stage ?? "blocking"} seenAs={seenAs} through={through} go={go} here={shot !== undefined} />
        <Stage
          tool={tool}
          focus={through ? null : wide}
          label={through ? "Stage, through the camera" : "The whole stage, with the camera's frame"}
          overlay={(to, view) => <Overlay to={to} scale={view.scale} pulled={pulled} wayPulled={wayPulled} />}
        >
          {!seenAs && <HeldNote shots={held} className="ribbon" />}
          {!shot && (
            <div className="empty">
              <div className="card-sheet">
                <h2 className="h4">No shot yet</h2>
                <p className="mb-3">
                  A shot puts puppets on the stage, lets them do their motions, and looks at them through a camera.
                </p>
                <Button onClick={() => void addShot()}>Make the first shot</Button>
              </div>
            </div>
          )}
        </Stage>
      </section>
      <aside className="right" aria-label="Details">
        {shot && <AddPanel shot={shot} />}
        {member && <PosePanel member={member} />}
        {shot && picked?.kind === "camera" && <CameraPanel shot={shot} />}
        {shot && <KeysPanel shot={shot} />}
        {shot && member && span && <SpanPanel key={span.id} shot={shot} member={member} span={span} go={go} />}
        {member && <DoesPanel member={member} />}
        {shot && member && <TravelPanel shot={shot} member={member} />}
        {shot && cast && <CastPanel key={cast.id} shot={shot} cast={cast} />}
        {member && <PlacePanel member={member} />}
        {shot && cast?.kind === "copies" && <CopiesPanel shot={shot} copies={cast} />}
        {shot && sound && <SoundPanel key={sound.id} shot={shot} sound={sound} />}
        {shot && !picked && <ShotPanel key={shot.id} shot={shot} />}
        {shot && !picked && <ShotChecks shot={shot} go={go} />}
      </aside>
      {shot && <ShotRows key={shot.id} shot={shot} />}
    </>
  );
}

/** Shapes of picture that films and pages have. */
const SHAPES = [
  [16, 9],
  [1.85, 1],
  [2.39, 1],
  [4, 3],
  [1, 1],
  [9, 16],
] as const;

function ShotBar({
  pass,
  seenAs,
  through,
  go,
  here,
}: {
  pass: Pass;
  seenAs: Pass | null;
  through: boolean;
  go: (bench: Bench) => void;
  here: boolean;
}) {
  const masked = useWorkshop((w) => w.masked);
  const posing = useWorkshop((w) => w.posing !== null);
  const [asking, setAsking] = useState(false);
  const canPose = useWorkshop((w) => w.posing !== null || memberOf(shotOf(w)) !== null);
  useWorkshop((w) => w.picked);
  const guides = useWorkshop((w) => w.guides);
  return (
    <div className="stage-bar">
      <IconButton
        icon={through ? "camera-video" : "aspect-ratio"}
        label={
          through
            ? "Seen through the camera; press for the whole stage"
            : "The whole stage; press to look through the camera"
        }
        keys="t"
        text={through ? "Camera" : "Whole stage"}
        onClick={() => see({ through: !through })}
      />
      <IconButton
        icon="mask"
        label={masked ? "What lies outside the picture is hidden" : "What lies outside the picture shows"}
        pressed={masked}
        disabled={!through}
        onClick={() => see({ masked: !masked })}
      />
      <IconButton
        icon="person-arms-up"
        label={
          posing ? "The hand poses who is picked; press to move the cast" : "Pose who is picked, in this shot only"
        }
        keys="p"
        text="Pose"
        pressed={posing}
        disabled={!canPose}
        onClick={togglePosing}
      />
      <Menu
        label="Guides: lines that help to frame"
        entries={[
          { text: "No guides", chosen: guides === "none", run: () => see({ guides: "none" }) },
          { text: "Thirds", chosen: guides === "thirds", run: () => see({ guides: "thirds" }) },
          { text: "Safe area: 90 and 80 %", chosen: guides === "safe", run: () => see({ guides: "safe" }) },
          "line",
          ...SHAPES.map(([w, h]) => ({
            text: `Picture ${w} : ${h}`,
            chosen: guides === w / h,
            run: () => see({ guides: w / h }),
          })),
          { text: "Picture of your own shape…", run: () => setAsking(true) },
        ]}
      >
        <i className="bi bi-grid-3x3" aria-hidden="true" /> Guides
      </Menu>
      {asking && (
        <AskNumbers
          title="Shape of the picture"
          fields={[
            { key: "w", label: "Width", of: "new.parts", unit: "parts", value: 2.2, digits: 2 },
            { key: "h", label: "Height", of: "new.parts", unit: "parts", value: 1, digits: 2 },
          ]}
          button="Show"
          done={({ w, h }) => see({ guides: w! / h! })}
          close={() => setAsking(false)}
        />
      )}
      <span className="divider" />
      <PassSwitch own={pass} seenAs={seenAs} />
      <span className="flex-grow-1" />
      {here && (
        <Button size="sm" onClick={() => go("render")}>
          Render <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
        </Button>
      )}
    </div>
  );
}
