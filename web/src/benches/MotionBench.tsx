/** Bench 3: pose, key, time and repeat. */
import { useEffect, useMemo, useState } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import { useShallow } from "zustand/react/shallow";
import { ROOT, type ChannelKind, type Motion, type Pull, type Point, type Puppet } from "../wire/types";
import { BodyMap } from "../parts/BodyMap";
import { MotionControls } from "../parts/MotionControls";
import { IconButton, PanelHead } from "../ui/bits";
import { NumberField } from "../ui/fields";
import { JointTree } from "../parts/JointTree";
import { AskName, PuppetPicker } from "../parts/PuppetPicker";
import { EasePanel } from "../sheet/EasePanel";
import { removeKeys, TimingSheet } from "../sheet/TimingSheet";
import { jointPlace, pieceOn, corners, sceneAt } from "../stage/scene";
import { Diamond, Ghosts } from "../stage/Skeleton";
import { Stage } from "../stage/Stage";
import { poseTool } from "../stage/tools/pose";
import { useShortcuts, type Shortcut } from "../ui/shortcuts";
import {
  type Bench,
  freshId,
  get,
  goTo,
  motionOf,
  motionsOf,
  putBack,
  set,
  submit,
  submitTried,
  toggle,
  toKey,
  useMotion,
  usePuppet,
  useWorkshop,
  watch,
} from "../session";

/** Key values at a frame, and keep showing them until the plan has them. */
function key(values: Record<string, number[]>, frame: number): Promise<boolean> {
  const motion = get().motion;
  const keys = Object.entries(values).map(([channel, value]) => {
    const cut = channel.lastIndexOf(".");
    return { joint: channel.slice(0, cut), kind: channel.slice(cut + 1) as ChannelKind, frame, value };
  });
  if (!motion || !keys.length) return Promise.resolve(false);
  return submitTried({ do: "set-keys", motion, keys });
}

/** Channel values at a frame as the core evaluated them. */
export function valuesAt(channel: string, frame: number): number[] | null {
  const { spacing, plan } = get();
  const found = spacing[channel];
  if (!found || !plan) return null;
  return Array.from({ length: found.values.length / plan.frames }, (_, i) => found.values[i * plan.frames + frame]!);
}

/** Key what is tried; with `whole`, also every channel that has keys anywhere. */
function keyPose(whole: boolean): void {
  const { pose, frame } = get();
  const values: Record<string, number[]> = {};
  if (whole) {
    for (const id of Object.keys(motionOf(get())?.channels ?? {})) {
      const value = valuesAt(id, frame);
      if (value) values[id] = value.map((v) => Number(v.toFixed(4)));
    }
  }
  Object.assign(values, pose?.tried);
  const { joint } = get();
  if (!Object.keys(values).length && joint) values[`${joint}.turn`] = valuesAt(`${joint}.turn`, frame) ?? [0];
  void key(values, pose?.frame ?? frame);
}

async function addMotion(puppet: string, name: string): Promise<void> {
  const id = freshId();
  if (await submit({ do: "add-motion", id, puppet, name, length: 48, cycle: false }))
    set({ motion: id, frame: 0, keys: [] });
}

export function MotionBench({ go }: { go: (bench: Bench) => void }) {
  const puppet = usePuppet();
  const motion = useMotion();
  const blocking = useWorkshop((w) => w.blocking);
  const pose = useWorkshop((w) => w.pose);
  const [pull, setPull] = useState<Pull>("turn");
  const [whole, setWhole] = useState(false);
  const [keying, setKeying] = useState(true);
  const [puppetId, motionId] = [puppet?.id, motion?.id];

  useEffect(() => {
    if (motionId) watch({ kind: "motion", motion: motionId, blocking });
    else if (puppetId) watch({ kind: "rest", puppet: puppetId });
  }, [puppetId, motionId, blocking]);

  const tool = useMemo(
    () =>
      poseTool({
        pull: () => pull,
        whole: () => whole,
        done: (tried, frame) => {
          if (keying) void key(tried, frame);
        },
      }),
    [pull, whole, keying],
  );
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: [" "], does: "Play or pause", run: toggle },
      { keys: ["ArrowLeft"], does: "One frame back", run: () => goTo(get().frame - 1) },
      { keys: ["ArrowRight"], does: "One frame on", run: () => goTo(get().frame + 1) },
      { keys: ["Shift+ArrowLeft"], does: "Ten frames back", run: () => goTo(get().frame - 10) },
      { keys: ["Shift+ArrowRight"], does: "Ten frames on", run: () => goTo(get().frame + 10) },
      { keys: ["Home"], does: "To the start", run: () => goTo(0) },
      { keys: ["End"], does: "To the end", run: () => goTo(1e6) },
      { keys: [","], does: "To the key before", run: () => toKey(-1) },
      { keys: ["."], does: "To the next key", run: () => toKey(1) },
      { keys: ["t"], does: "Pull to turn", run: () => setPull("turn") },
      { keys: ["m"], does: "Pull to move", run: () => setPull("move") },
      { keys: ["s"], does: "Pull to size", run: () => setPull("scale") },
      { keys: ["w"], does: "Pull the whole puppet, or one joint", run: () => setWhole((v) => !v) },
      { keys: ["k"], does: "Key what was tried, or the selected joint", run: () => keyPose(false) },
      { keys: ["Shift+k"], does: "Key the whole pose", run: () => keyPose(true) },
      { keys: ["a"], does: "Key by itself, or only when asked", run: () => setKeying((v) => !v) },
      { keys: ["b"], does: "Blocking: poses without in-betweens", run: () => set({ blocking: !get().blocking }) },
      {
        keys: ["i"],
        does: "Show the selected piece alone",
        run: () => set({ isolated: !get().isolated && get().pieces.length > 0 }),
      },
      {
        keys: ["Delete", "Backspace"],
        does: "Remove the selected keys",
        run: () => get().motion && void removeKeys(get().motion!, get().keys),
      },
      {
        keys: ["Escape"],
        does: "Put back what was tried",
        run: () => (get().pose ? putBack() : set({ keys: [], pieces: [], joint: null })),
      },
    ],
    [],
  );
  useShortcuts(shortcuts);

  const empty = !puppet || !Object.keys(puppet.pieces ?? {}).length;
  const tried = pose !== null && Object.keys(pose.tried).length > 0;
  return (
    <>
      <aside className="left" aria-label="Puppet">
        <PuppetPicker />
        <BodyMap />
        <div className="card-sheet d-flex flex-column flex-grow-1" style={{ minHeight: 0 }}>
          <PanelHead title="Joints" />
          {puppet && <JointTree puppet={puppet} linking={false} />}
        </div>
      </aside>
      <section className="stage-cell" aria-label="Stage">
        <div className="stage-bar">
          <IconButton
            icon="arrow-clockwise"
            label="Pull to turn"
            keys="t"
            text="Turn"
            pressed={pull === "turn"}
            onClick={() => setPull("turn")}
          />
          <IconButton
            icon="arrows-move"
            label="Pull to move"
            keys="m"
            text="Move"
            pressed={pull === "move"}
            onClick={() => setPull("move")}
          />
          <IconButton
            icon="arrows-angle-expand"
            label="Pull to size; Shift keeps the shape"
            keys="s"
            text="Size"
            pressed={pull === "scale"}
            onClick={() => setPull("scale")}
          />
          <span className="divider" />
          <IconButton
            icon="pin-angle"
            label="Pull the whole puppet"
            keys="w"
            text="Whole"
            pressed={whole}
            onClick={() => setWhole(!whole)}
          />
          <span className="divider" />
          <IconButton
            icon="record-circle"
            label={keying ? "Each pull is keyed by itself" : "Pulls are only tried until you key them"}
            keys="a"
            text={keying ? "Keying" : "Trying"}
            pressed={keying}
            onClick={() => setKeying(!keying)}
          />
          <IconButton
            icon="key"
            label="Key the whole pose here"
            keys="Shift+k"
            onClick={() => keyPose(true)}
            disabled={!motion}
          />
          <IconButton
            icon="pause-btn"
            label="Blocking: held poses, no in-betweens; the keys stay as they are"
            keys="b"
            text="Blocking"
            pressed={blocking}
            onClick={() => set({ blocking: !blocking })}
          />
          <span className="flex-grow-1" />
          {motion && (
            <Button size="sm" onClick={() => go("render")}>
              Render <i className="bi bi-arrow-right ms-1" aria-hidden="true" />
            </Button>
          )}
        </div>
        <Stage
          tool={tool}
          tried={tried && !keying}
          label="Stage: pull a piece to pose it"
          overlay={(to) => puppet && <Posing puppet={puppet} to={to} whole={whole} />}
        >
          {tried && !keying && (
            <div className="ribbon">
              Tried, not keyed
              <button type="button" className="btn btn-sm btn-light" onClick={() => keyPose(false)}>
                Key it <span className="key-cap text-dark bg-white ms-1">K</span>
              </button>
              <button type="button" className="btn btn-sm btn-outline-light" onClick={() => putBack()}>
                Put back
              </button>
            </div>
          )}
          {blocking && !(tried && !keying) && (
            <div className="ribbon" style={{ paddingRight: "0.8rem" }}>
              Blocking: poses are held until the next
            </div>
          )}
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
      <aside className="right" aria-label="Details">
        {puppet && <MotionPanel puppet={puppet} motion={motion} />}
        {puppet && motion && <JointValues puppet={puppet} motion={motion} />}
        {puppet && motion && <Controls puppet={puppet} motion={motion} />}
        {motion && <EasePanel key={motion.id} motion={motion} />}
      </aside>
      <section className="bottom" aria-label="Timing sheet">
        {puppet && motion && <TimingSheet puppet={puppet} motion={motion} />}
      </section>
    </>
  );
}

function MotionPanel({ puppet, motion }: { puppet: Puppet; motion: Motion | undefined }) {
  const documents = useWorkshop((w) => w.documents);
  const [asking, setAsking] = useState<"new" | "name" | null>(null);
  return (
    <div className="card-sheet">
      <Dropdown className="mb-2">
        <Dropdown.Toggle
          variant="link"
          className="p-0 w-100 text-start text-decoration-none heading d-flex align-items-center"
          style={{ color: "var(--ink)" }}
        >
          <span className="flex-grow-1 text-truncate">{motion?.name ?? "No motion"}</span>
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {motionsOf(documents, puppet.id).map((m) => (
            <Dropdown.Item
              key={m.id}
              active={m.id === motion?.id}
              onClick={() => set({ motion: m.id, frame: 0, keys: [], pose: null })}
            >
              {m.name}
            </Dropdown.Item>
          ))}
          <Dropdown.Divider />
          <Dropdown.Item onClick={() => setAsking("new")}>New motion…</Dropdown.Item>
          {motion && <Dropdown.Item onClick={() => setAsking("name")}>Rename…</Dropdown.Item>}
          {motion && (
            <Dropdown.Item onClick={() => void submit({ do: "remove-motion", motion: motion.id })}>
              Remove “{motion.name}”
            </Dropdown.Item>
          )}
        </Dropdown.Menu>
      </Dropdown>
      {motion && (
        <div className="fields">
          <label htmlFor="length">Length</label>
          <NumberField
            id="length"
            value={motion.length ?? 48}
            unit="fr"
            digits={0}
            min={1}
            max={20000}
            onCommit={(v) => void submit({ do: "set-motion", motion: motion.id, length: Math.round(v) })}
          />
          <label htmlFor="cycle">Cycle</label>
          <Form.Check
            id="cycle"
            type="switch"
            label="last leads to first"
            checked={motion.cycle ?? false}
            onChange={(e) => void submit({ do: "set-motion", motion: motion.id, cycle: e.target.checked })}
          />
        </div>
      )}
      {asking && (
        <AskName
          title={asking === "new" ? "New motion" : "Rename motion"}
          start={asking === "name" ? (motion?.name ?? "") : ""}
          close={() => setAsking(null)}
          done={(name) =>
            void (asking === "new"
              ? addMotion(puppet.id, name)
              : submit({ do: "set-motion", motion: motion!.id, name }))
          }
        />
      )}
    </div>
  );
}

function Controls({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  return <MotionControls puppet={puppet} motion={motion} frame={frame} valueAt={valuesAt} key_={key} />;
}

function JointValues({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const joint = useWorkshop((w) => w.joint);
  const frame = useWorkshop((w) => (w.playing ? -1 : w.frame));
  const tried = useWorkshop((w) => w.pose?.tried);
  useWorkshop((w) => w.spacing);
  if (!joint)
    return (
      <div className="card-sheet">
        <p className="hint mt-0 mb-0">
          Pull a piece on the stage: it turns about its pin, and what hangs on it follows. Each pull makes a key at
          frame {frame + 1}.
        </p>
      </div>
    );
  if (frame < 0) return null;
  const name = joint === ROOT ? puppet.name : (puppet.joints?.[joint]?.name ?? "");
  const value = (kind: ChannelKind, neutral: number[]) =>
    tried?.[`${joint}.${kind}`] ?? valuesAt(`${joint}.${kind}`, frame) ?? neutral;
  const keyed = (kind: ChannelKind) => motion.channels?.[`${joint}.${kind}`]?.keys?.[String(frame)] !== undefined;
  const turn = value("turn", [0]);
  const move = value("move", [0, 0]);
  const size = value("scale", [1, 1]);
  const put = (kind: ChannelKind, numbers: number[]) => void key({ [`${joint}.${kind}`]: numbers }, frame);
  const mark = (kind: ChannelKind) =>
    keyed(kind) ? <span className="key-dot d-inline-block ms-1" title="Keyed here" /> : null;
  return (
    <div className="card-sheet">
      <h2 className="heading mb-2 text-truncate">
        {name} <span className="faint fw-normal small">at frame {frame + 1}</span>
      </h2>
      <div className="fields">
        <label htmlFor="v-turn">Turn{mark("turn")}</label>
        <NumberField always id="v-turn" value={turn[0]!} unit="°" onCommit={(v) => put("turn", [v])} />
        <span className="faint">Place{mark("move")}</span>
        <div className="pair">
          <NumberField
            always
            id="v-x"
            label="Across"
            value={move[0]!}
            unit="u"
            onCommit={(v) => put("move", [v, move[1]!])}
          />
          <NumberField
            always
            id="v-y"
            label="Down"
            value={move[1]!}
            unit="u"
            onCommit={(v) => put("move", [move[0]!, v])}
          />
        </div>
        <span className="faint">Size{mark("scale")}</span>
        <div className="pair">
          <NumberField
            always
            id="v-w"
            label="Width"
            value={size[0]! * 100}
            unit="%"
            onCommit={(v) => put("scale", [v / 100, size[1]!])}
          />
          <NumberField
            always
            id="v-h"
            label="Height"
            value={size[1]! * 100}
            unit="%"
            onCommit={(v) => put("scale", [size[0]!, v / 100])}
          />
        </div>
      </div>
    </div>
  );
}

function Posing({ puppet, to, whole }: { puppet: Puppet; to: (p: Point) => Point; whole: boolean }) {
  const { plan, pose, frame, joint, playing } = useWorkshop(
    useShallow((w) => ({ plan: w.plan, pose: w.pose, frame: w.frame, joint: w.joint, playing: w.playing })),
  );
  const scene = sceneAt(plan, pose, frame);
  if (!scene || playing || plan?.puppet !== puppet.id) return null;
  const chosen = joint && joint !== ROOT ? joint : null;
  // What a dial moves is posed with the dial: its pins would only cover the face.
  const dialled = new Set(
    Object.values(puppet.dials ?? {}).flatMap((d) =>
      (d.stops ?? []).flatMap((s) => Object.keys(s.values ?? {}).map((c) => c.slice(0, c.lastIndexOf(".")))),
    ),
  );
  const joints = Object.values(puppet.joints ?? {}).filter((j) => j.id === chosen || !dialled.has(j.id));
  const piece = chosen ? pieceOn(chosen) : null;
  const around = piece ? corners(scene, puppet, piece)?.map(to) : null;
  return (
    <>
      {around && !pose && (
        <>
          <path className="halo" d={`M${around.map((p) => p.join(" ")).join("L")}Z`} />
          <path className="outline" d={`M${around.map((p) => p.join(" ")).join("L")}Z`} strokeDasharray="7 3" />
        </>
      )}
      <Ghosts puppet={puppet} to={to} />
      {joints.map((j) => {
        const found = jointPlace(scene, j.id);
        if (!found) return null;
        const [x, y] = to(found);
        const on = chosen === j.id || (whole && !j.parent);
        if (j.handle) return <Diamond key={j.id} joint={j} at={[x, y]} on={on} scene={scene} to={to} />;
        return (
          <g
            key={j.id}
            className={on ? "chosen" : ""}
            data-handle={`joint:${j.id}`}
            pointerEvents="all"
            style={{ cursor: "grab" }}
          >
            <title>{j.name}</title>
            <circle cx={x} cy={y} r={8} fillOpacity={0.01} />
            {on && <circle cx={x} cy={y} r={8.5} fill="none" stroke="#fff" strokeWidth={3.5} />}
            <circle
              className="pin-dot"
              cx={x}
              cy={y}
              r={on ? 5.6 : 3}
              style={{ stroke: on ? undefined : `var(--${j.side})`, strokeWidth: on ? undefined : 1.2 }}
            />
          </g>
        );
      })}
      {(whole || joint === ROOT) &&
        (() => {
          const row = scene.worldOffset;
          const [ox, oy] = puppet.origin as [number, number];
          const w = scene.worlds;
          const [x, y] = to([
            w[row]! * ox + w[row + 2]! * oy + w[row + 4]!,
            w[row + 1]! * ox + w[row + 3]! * oy + w[row + 5]!,
          ]);
          return (
            <g data-handle={`joint:${ROOT}`} pointerEvents="all" style={{ cursor: "grab" }}>
              <path d={`M${x - 34} ${y}h68`} stroke="#fff" strokeWidth={6} strokeLinecap="round" />
              <path d={`M${x - 34} ${y}h68`} stroke="#6a3fb5" strokeWidth={2.6} strokeLinecap="round" />
              <rect
                x={x - 8}
                y={y - 8}
                width={16}
                height={16}
                rx={3}
                transform={`rotate(45 ${x} ${y})`}
                fill="#fff"
                stroke="#6a3fb5"
                strokeWidth={2.4}
              />
            </g>
          );
        })()}
    </>
  );
}
