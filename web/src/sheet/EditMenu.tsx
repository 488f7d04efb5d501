/** What can be done to the selected keys, threads or poses. */
import { memo, useState } from "react";
import { submit, useWorkshop } from "../session";
import { AskNumbers, type Asked } from "../ui/AskNumbers";
import { Menu } from "../ui/Menu";
import type { Command, Motion, Puppet } from "../wire/types";
import { channelsOf, copy, land, many, paste, removeKeys, removePoses, spanOf } from "./keys";

interface Question {
  title: string;
  text?: string;
  fields: Asked[];
  button: string;
  done: (values: Record<string, number>) => void;
}

export const EditMenu = memo(function EditMenu({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const keys = useWorkshop((w) => w.keys);
  const poses = useWorkshop((w) => w.poses);
  const clip = useWorkshop((w) => w.clip);
  const frame = useWorkshop((w) => (w.playing ? 0 : w.frame));
  const [question, setQuestion] = useState<Question | null>(null);
  const id = motion.id;
  const channels = channelsOf(keys);
  const [start, end] = keys.length ? spanOf(keys) : [0, motion.length - 1];
  const paths = keys.filter((k) => k.channel.endsWith(".move"));
  const delays = channels.map((c) => motion.channels?.[c]?.delay ?? 0);
  const stretch = { channels, start: end > start ? start : 0, end: end > start ? end : motion.length - 1 };
  const ask = (
    title: string,
    button: string,
    fields: Asked[],
    command: (v: Record<string, number>) => Command,
    text?: string,
  ) => setQuestion({ title, button, fields, text, done: (v) => void land(command(v)).catch(() => undefined) });
  const put = (command: Command) => void submit(command);
  const some = keys.length > 0;
  const cycle = motion.cycle;

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
          { text: "Paste reversed", run: () => paste({ reverse: true }), disabled: !clip?.keys.length },
          "line",
          ...(poses.length
            ? [
                { text: "Duplicate the poses", run: () => put({ do: "duplicate-poses", motion: id, frames: poses }) },
                { text: "Mirror the poses", run: () => put({ do: "mirror-poses", motion: id, frames: poses }) },
                { text: "Remove the poses with all their keys", run: () => void removePoses(id, poses) },
                {
                  text: "Remove only the cards",
                  run: () => put({ do: "remove-poses", motion: id, frames: poses, keep_keys: true }),
                },
                "line" as const,
              ]
            : []),
          ...(some
            ? [
                {
                  text: "Scale in time…",
                  run: () =>
                    ask(
                      "Scale in time",
                      "Scale",
                      [
                        { key: "factor", label: "To", of: "ScaleKeys.factor", times: 100, unit: "%", value: 1 },
                        {
                          key: "about",
                          label: "About frame",
                          of: "ScaleKeys.about",
                          plus: 1,
                          unit: "fr",
                          value: start,
                          max: motion.length - 1,
                          digits: 0,
                        },
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
                      (v) => ({
                        do: "wrap-keys",
                        motion: id,
                        keys,
                        by: v.by!,
                        start: 0,
                        end: motion.length - 1,
                      }),
                      "What leaves one end comes in at the other.",
                    ),
                },
                {
                  text: "Delay…",
                  run: () =>
                    ask(
                      "Let it come late",
                      "Set",
                      [
                        {
                          key: "delay",
                          label: "Late by",
                          of: "SetDelay.delay",
                          unit: "fr",
                          value: delays[0] ?? 0,
                          digits: 2,
                        },
                        {
                          key: "growing",
                          label: "More, joint by joint",
                          of: "SetDelay.growing",
                          unit: "fr",
                          value: 0,
                          digits: 2,
                        },
                      ],
                      (v) => ({ do: "set-delay", motion: id, channels, delay: v.delay!, growing: v.growing! }),
                      "The keys stay on their poses; what they do comes later. Parts of a frame are fine.",
                    ),
                },
                delays.some((d) => d !== 0) && {
                  text: "Write the delay into the keys",
                  run: () => put({ do: "write-delay", motion: id, channels }),
                },
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
                      [
                        {
                          key: "tolerance",
                          label: "Within",
                          of: "ThinKeys.tolerance",
                          unit: "° or u",
                          value: 0.5,
                          digits: 2,
                        },
                      ],
                      (v) => ({ do: "thin-keys", motion: id, ...stretch, tolerance: v.tolerance! }),
                      "Leaves the fewest keys that keep every value this near.",
                    ),
                },
                ...(paths.length
                  ? [
                      {
                        text: "Smooth path",
                        run: () => put({ do: "shape-path", motion: id, keys: paths, tangents: {} }),
                      },
                      { text: "Sharp path", run: () => put({ do: "shape-path", motion: id, keys: paths }) },
                    ]
                  : []),
                { text: "Remove the keys", run: () => void removeKeys(id, keys) },
                "line" as const,
              ]
            : []),
          cycle && { text: "Make the second half from the first", run: () => put({ do: "mirror-half", motion: id }) },
          { text: `Turn “${puppet.name}” round`, run: () => put({ do: "flip-puppet", motion: id }) },
          {
            text: `Put in or take out frames at ${frame + 1}…`,
            run: () =>
              ask(
                "Put in or take out frames",
                "Do it",
                [{ key: "frames", label: "Frames", unit: "fr", value: 4, digits: 0 }],
                (v) => ({ do: "insert-time", motion: id, at: frame, frames: Math.round(v.frames!) }),
                "Less than nought takes frames out, with the keys on them.",
              ),
          },
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
