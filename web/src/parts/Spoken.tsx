/** What is said to those who hear the page: frame and keys, films done or failed, trouble with saving. */
import { useEffect, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { motionOf, stretchOf, useWorkshop } from "../session";
import type { Motion } from "../wire/types";

/** Milliseconds for which what is said must have been so: walking over frames says the last of them. */
const REST = 350;
/** Milliseconds after which a change that is not yet saved is trouble. */
const LATE = 4000;

export function Spoken() {
  return (
    <>
      <Frame />
      <Films />
      <Saving />
    </>
  );
}

const keyCount = (motion: Motion, frame: number): number =>
  Object.values(motion.channels ?? {}).filter((c) => c.keys?.[String(frame)]).length;

function Frame() {
  const said = useWorkshop((w) => {
    if (w.playing || (w.bench !== "motion" && w.bench !== "voice" && w.bench !== "shots")) return "";
    const { frames } = stretchOf(w);
    if (!frames) return "";
    const motion = w.bench === "shots" ? undefined : motionOf(w);
    const keys = motion ? keyCount(motion, w.frame) : null;
    const chosen = w.keys.length > 1 ? `, ${w.keys.length} keys selected` : "";
    const here = keys === null ? "" : `, ${keys === 1 ? "1 key" : `${keys} keys`} here`;
    return `Frame ${w.frame + 1} of ${frames}${here}${chosen}`;
  });
  const [last, setLast] = useState(said);
  useEffect(() => {
    const timer = setTimeout(() => setLast(said), REST);
    return () => clearTimeout(timer);
  }, [said]);
  return (
    <div className="visually-hidden" role="status">
      {last}
    </div>
  );
}

function Films() {
  const renders = useWorkshop(
    useShallow((w) => Object.fromEntries(Object.values(w.renders).map((r) => [r.id, r.state]))),
  );
  const titles = useWorkshop((w) => w.renders);
  const before = useRef(renders);
  const [said, setSaid] = useState("");
  useEffect(() => {
    for (const [id, state] of Object.entries(renders)) {
      const was = before.current[id];
      if (was === state || (was === undefined && state !== "failed")) continue;
      if (state === "done") setSaid(`The film “${titles[id]!.title}” is done.`);
      if (state === "failed") setSaid(`The film “${titles[id]!.title}” failed.`);
    }
    before.current = renders;
  }, [renders, titles]);
  return (
    <div className="visually-hidden" role="status">
      {said}
    </div>
  );
}

function Saving() {
  const saved = useWorkshop((w) => w.saved);
  const [late, setLate] = useState(false);
  useEffect(() => {
    setLate(false);
    if (saved === "saved") return undefined;
    const timer = setTimeout(() => setLate(true), LATE);
    return () => clearTimeout(timer);
  }, [saved]);
  if (!late) return null;
  return (
    <div className="visually-hidden" role="alert">
      The last changes are not saved yet.
    </div>
  );
}
