/** Keys on a row or a thread of a shot, as beads. */
import { useShown } from "../../ui/shown";
import { channelsOf, goTo, submit, useWorkshop, type ShotKeyRef, pickOut } from "../../session";
import { type Timeline } from "../../sheet/timeline";
import { usePull } from "../../ui/pull";
import type { Shot } from "../../wire/types";
import { keysOn, PLACE } from "./commands";

/** The keys of the camera, or of one of the cast: one bead for all that lie on a frame. */
export function Beads({
  shot,
  cast,
  channel,
  time,
  middle,
}: {
  shot: Shot;
  cast: string | null;
  /** Only those of this channel, as a thread. */
  channel?: string;
  time: Timeline;
  middle: number;
}) {
  const chosen = useWorkshop((w) => w.shotKeys);
  const all = channelsOf(shot, cast);
  const channels = channel ? { [channel]: all[channel]! } : all;
  const frames = [...new Set(Object.values(channels).flatMap((c) => Object.keys(c.keys ?? {}).map(Number)))].sort(
    (a, b) => a - b,
  );
  return (
    <>
      {frames.map((f) => (
        <Bead
          key={f}
          shot={shot}
          keys={keysOn(shot, cast, f).filter((k) => !channel || k.channel === channel)}
          frame={f}
          time={time}
          middle={middle}
          chosen={chosen.some((k) => k.cast === cast && k.frame === f && (!channel || k.channel === channel))}
        />
      ))}
    </>
  );
}

function Bead({
  shot,
  keys,
  frame,
  time,
  middle,
  chosen,
}: {
  shot: Shot;
  keys: ShotKeyRef[];
  frame: number;
  time: Timeline;
  middle: number;
  chosen: boolean;
}) {
  const cast = keys[0]?.cast ?? null;
  const { shown: off, show, settle } = useShown(0, shot);
  const choose = () =>
    pickOut({ shotKeys: keys, picked: cast === null ? { kind: "camera" } : { kind: "cast", id: cast } });
  const by = (e: { clientX: number }, from: number) => Math.round((e.clientX - from) / time.step);
  const move = (frames: number): Promise<boolean> => {
    const done = submit({ do: "move-shot-keys", shot: shot.id, keys, by: frames });
    pickOut({ shotKeys: keys.map((k) => ({ ...k, frame: Math.max(0, k.frame + frames) })) });
    return done;
  };
  const pull = usePull<HTMLButtonElement>((event) => {
    event.stopPropagation();
    const from = event.clientX;
    choose();
    return {
      move: (e) => show(by(e, from)),
      end: (e) => {
        settle(by(e, from) ? move(by(e, from)) : null);
        if (!by(e, from)) goTo(frame);
      },
      cancel: () => settle(),
    };
  });
  const x = time.x(frame + off) - time.scroll;
  if (x < -8 || x > time.room + 8) return null;
  const held = keys.some((k) => channelsOf(shot, cast)[k.channel]?.keys?.[String(frame)]?.ease?.kind === "hold");
  const what = cast === null ? "Camera" : keys.every((k) => k.channel.startsWith(`${PLACE}.`)) ? "Place" : "Pose";
  return (
    <button
      type="button"
      className={`shot-bead${chosen ? " chosen" : ""}${held ? " held" : ""}`}
      style={{ left: x - 6, top: middle - 6 }}
      aria-label={`${what} key at frame ${frame + 1}`}
      aria-pressed={chosen}
      onKeyDown={(e) => {
        if (e.key === "Enter") {
          choose();
          goTo(frame);
        } else if (e.altKey && (e.key === "ArrowLeft" || e.key === "ArrowRight"))
          void move(e.key === "ArrowLeft" ? -1 : 1);
        else return;
        e.preventDefault();
        e.stopPropagation();
      }}
      {...pull}
    />
  );
}
