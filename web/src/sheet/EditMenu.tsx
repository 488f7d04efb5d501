/** What can be done to the selected keys, threads or poses. */
import { memo, useState } from "react";
import { submit, useWorkshop, type KeyRef } from "../session";
import { AskNumbers, type Asked } from "../ui/AskNumbers";
import { Menu, type Entries } from "../ui/Menu";
import type { Command, Motion, Puppet } from "../wire/types";
import { channelsOf, copy, land, many, paste, pasteOnto, removeKeys, removePoses, spanOf } from "./keys";

interface Question {
  title: string;
  text?: string;
  fields: Asked[];
  button: string;
  done: (values: Record<string, number>) => void;
}

type Ask = (question: Question) => void;

/** Ask for numbers, and do with them what they are asked for. */
const asking =
  (ask: Ask) =>
  (title: string, button: string, fields: Asked[], command: (v: Record<string, number>) => Command, text?: string) =>
    ask({ title, button, fields, text, done: (v) => void land(command(v)).catch(() => undefined) });

const put = (command: Command) => void submit(command);

export const EditMenu = memo(function EditMenu({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const keys = useWorkshop((w) => w.keys);
  const poses = useWorkshop((w) => w.poses);
  const clip = useWorkshop((w) => w.clip);
  const frame = useWorkshop((w) => (w.playing ? 0 : w.frame));
  const joints = useWorkshop((w) => w.joints);
  const [question, setQuestion] = useState<Question | null>(null);
  const some = keys.length > 0;
  return (
    <>
      <Menu
        label="Edit what is selected"
        entries={[
          {
            text: some || poses.length ? "Copy" : "Copy (select keys or poses first)",
            run: copy,
            disabled: !some && !poses.length,
          },
          { text: `Paste at frame ${frame + 1}`, run: () => paste(), disabled: !clip },
          { text: "Paste mirrored", run: () => paste({ mirrored: true }), disabled: !clip },
          {
            text: `Paste onto ${joints.length > 1 ? many(joints.length, "joint") : "the joint"} in hand…`,
            run: () =>
              asking(setQuestion)(
                "Paste onto what is in hand",
                "Paste",
                [{ key: "later", label: "Each later by", of: "PasteKeys.later", unit: "fr", value: 0 }],
                (v) => pasteOnto(joints, v.later!),
                `The keys that were copied, from frame ${frame + 1} on, in the order in which the joints were taken.`,
              ),
            disabled: !clip?.keys.length || !joints.length,
          },
          { text: "Paste reversed", run: () => paste({ reverse: true }), disabled: !clip?.keys.length },
          "line",
          ...(poses.length ? ofPoses(motion.id, poses) : []),
          ...(some ? [...inTime(motion, keys, setQuestion), ...ofKeys(motion, keys, setQuestion)] : []),
          ...ofAll(puppet, motion, frame, setQuestion),
        ]}
      >
        Edit{" "}
        <span className="faint">
          {poses.length ? many(poses.length, "pose") : some ? many(keys.length, "key") : ""}
        </span>
      </Menu>
      {question && <AskNumbers {...question} close={() => setQuestion(null)} />}
    </>
  );
});

/** What can be done to poses. */
const ofPoses = (motion: string, frames: number[]): Entries => [
  { text: "Duplicate the poses", run: () => put({ do: "duplicate-poses", motion, frames }) },
  { text: "Mirror the poses", run: () => put({ do: "mirror-poses", motion, frames }) },
  { text: "Remove the poses with all their keys", run: () => void removePoses(motion, frames) },
  { text: "Remove only the cards", run: () => put({ do: "remove-poses", motion, frames, keep_keys: true }) },
  "line",
];

/** When keys are, and what they do. */
function inTime(motion: Motion, keys: KeyRef[], question: Ask): Entries {
  const ask = asking(question);
  const id = motion.id;
  const channels = channelsOf(keys);
  const delays = channels.map((c) => motion.channels?.[c]?.delay ?? 0);
  const about = { of: "ScaleKeys.about", plus: 1, unit: "fr", max: motion.length - 1, digits: 0 } as const;
  return [
    {
      text: "Scale in time…",
      run: () =>
        ask(
          "Scale in time",
          "Scale",
          [
            { key: "factor", label: "To", of: "ScaleKeys.factor", times: 100, unit: "%", value: 1 },
            { key: "about", label: "About frame", ...about, value: spanOf(keys)[0] },
          ],
          (v) => ({ do: "scale-keys", motion: id, keys, about: v.about!, factor: v.factor! }),
        ),
    },
    { text: "Reverse in place", run: () => void land({ do: "reverse-keys", motion: id, keys }) },
    {
      text: "Shift round in the motion…",
      run: () =>
        ask(
          "Shift round",
          "Shift",
          [{ key: "by", label: "By", of: "WrapKeys.by", unit: "fr", value: 1 }],
          (v) => ({ do: "wrap-keys", motion: id, keys, by: v.by!, start: 0, end: motion.length - 1 }),
          "What leaves one end comes in at the other.",
        ),
    },
    {
      text: "Delay…",
      run: () => {
        const late = { unit: "fr", digits: 2 } as const;
        ask(
          "Let it come late",
          "Set",
          [
            { key: "delay", label: "Late by", of: "SetDelay.delay", value: delays[0] ?? 0, ...late },
            { key: "growing", label: "More, joint by joint", of: "SetDelay.growing", value: 0, ...late },
          ],
          (v) => ({ do: "set-delay", motion: id, channels, delay: v.delay!, growing: v.growing! }),
          "The keys stay on their poses; what they do comes later. Parts of a frame are fine.",
        );
      },
    },
    delays.some((d) => d !== 0) && {
      text: "Write the delay into the keys",
      run: () => put({ do: "write-delay", motion: id, channels }),
    },
  ];
}

/** More or fewer keys, the way that they take, and none. */
function ofKeys(motion: Motion, keys: KeyRef[], question: Ask): Entries {
  const ask = asking(question);
  const id = motion.id;
  const [start, end] = spanOf(keys);
  const whole = end <= start;
  const stretch = {
    channels: channelsOf(keys),
    start: whole ? 0 : start,
    end: whole ? motion.length - 1 : end,
  };
  const paths = keys.filter((k) => k.channel.endsWith(".move"));
  const within = { of: "ThinKeys.tolerance", unit: "° or u", value: 0.5, digits: 2 } as const;
  return [
    {
      text: "Key every n-th frame…",
      run: () =>
        ask(
          "Key every n-th frame",
          "Key",
          [{ key: "every", label: "Every", of: "BakeKeys.every", unit: "fr", value: 2 }],
          (v) => ({ do: "bake-keys", motion: id, ...stretch, every: v.every! }),
          `From frame ${stretch.start + 1} to ${stretch.end + 1}.`,
        ),
    },
    {
      text: "Thin out…",
      run: () =>
        ask(
          "Thin out keys",
          "Thin",
          [{ key: "tolerance", label: "Within", ...within }],
          (v) => ({ do: "thin-keys", motion: id, ...stretch, tolerance: v.tolerance! }),
          "Leaves the fewest keys that keep every value this near.",
        ),
    },
    paths.length > 0 && {
      text: "Smooth path",
      run: () => put({ do: "shape-path", motion: id, keys: paths, tangents: {} }),
    },
    paths.length > 0 && { text: "Sharp path", run: () => put({ do: "shape-path", motion: id, keys: paths }) },
    {
      text: "Hold this throughout",
      run: () => void land({ do: "hold-throughout", motion: id, keys }).catch(() => undefined),
    },
    { text: "Remove the keys", run: () => void removeKeys(id, keys) },
    "line",
  ];
}

/** What is done to the whole motion. */
const ofAll = (puppet: Puppet, motion: Motion, frame: number, question: Ask): Entries => [
  motion.cycle && {
    text: "Make the second half from the first",
    run: () => put({ do: "mirror-half", motion: motion.id }),
  },
  { text: `Turn “${puppet.name}” round`, run: () => put({ do: "flip-puppet", motion: motion.id }) },
  {
    text: `Put in or take out frames at ${frame + 1}…`,
    run: () =>
      asking(question)(
        "Put in or take out frames",
        "Do it",
        [{ key: "frames", label: "Frames", unit: "fr", value: 4, digits: 0 }],
        (v) => ({ do: "insert-time", motion: motion.id, at: frame, frames: Math.round(v.frames!) }),
        "Less than nought takes frames out, with the keys on them.",
      ),
  },
];
