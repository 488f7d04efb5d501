/** The keys of the Motion bench, and what its hand is set to do. */
import { useMemo, useState } from "react";
import { get, goTo, putBack, setOnion, toCard, toggle, toKey, see, pickOut } from "../../session";
import { letGo } from "../../sheet/feet";
import { copy, land, paste, removeKeys, removePoses } from "../../sheet/keys";
import { PULLS } from "../../parts/pulls";
import { useShortcuts, type Shortcut } from "../../ui/shortcuts";
import type { Pull } from "../../wire/types";
import { beginLimbs, keyTried, keyWholePose, toggleCapture, toRest } from "./commands";

function nudge(by: number): void {
  const { motion, keys } = get();
  if (motion && keys.length) void land({ do: "move-keys", motion, keys, by });
}

export type PosingHand = ReturnType<typeof usePosingHand>;

/** What a hand on the stage pulls, and whether what it does is keyed by itself. */
export function usePosingHand() {
  const [pull, setPull] = useState<Pull>("turn");
  const [whole, setWhole] = useState(false);
  const [keying, setKeying] = useState(true);
  return useMemo(() => ({ pull, setPull, whole, setWhole, keying, setKeying }), [pull, whole, keying]);
}

export function useMotionKeys(hand: PosingHand): void {
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: [" "], does: "Play or pause", run: toggle },
      { keys: ["ArrowLeft"], does: "One frame back", run: () => goTo(get().frame - 1) },
      { keys: ["ArrowRight"], does: "One frame on", run: () => goTo(get().frame + 1) },
      { keys: ["Shift+ArrowLeft"], does: "Ten frames back", run: () => goTo(get().frame - 10) },
      { keys: ["Shift+ArrowRight"], does: "Ten frames on", run: () => goTo(get().frame + 10) },
      { keys: ["Home"], does: "To the start", run: () => goTo(0) },
      { keys: ["End"], does: "To the end", run: () => goTo(1e6) },
      { keys: [","], does: "To the card before", run: () => toCard(-1) },
      { keys: ["."], does: "To the next card", run: () => toCard(1) },
      { keys: ["Shift+,"], does: "To the key before", run: () => toKey(-1) },
      { keys: ["Shift+."], does: "To the next key", run: () => toKey(1) },
      ...PULLS.map((p) => ({ keys: [p.keys], does: p.label, run: () => hand.setPull(p.id) })),
      { keys: ["Shift+l"], does: "Let pulled limbs begin at the selected joint, or by themselves", run: beginLimbs },
      { keys: ["w"], does: "Pull the whole puppet, or one joint", run: () => hand.setWhole((v) => !v) },
      {
        keys: ["k"],
        does: "Key what was tried, and what is selected in all that it can do",
        run: () => void keyTried(),
      },
      { keys: ["Shift+k"], does: "Key the whole pose", run: () => void keyWholePose() },
      { keys: ["Shift+r"], does: "Put what is selected back to rest", run: () => void toRest() },
      { keys: ["a"], does: "Key by itself, or only when asked", run: () => hand.setKeying((v) => !v) },
      { keys: ["r"], does: "Capture: record the pointer into a joint", run: toggleCapture },
      { keys: ["o"], does: "Onion skin: earlier and later frames", run: () => setOnion({ on: !get().onion.on }) },
      { keys: ["p"], does: "The path of the selected joint", run: () => see({ wayShown: !get().wayShown }) },
      { keys: ["b"], does: "Blocking: poses without in-betweens", run: () => see({ blocking: !get().blocking }) },
      {
        keys: ["Delete", "Backspace"],
        does: "Remove the selected keys, poses with all their keys, or plant",
        run: () => {
          const { motion, keys, poses } = get();
          if (get().plant && !keys.length && !poses.length) void letGo();
          else if (motion && poses.length) void removePoses(motion, poses);
          else if (motion) void removeKeys(motion, keys);
        },
      },
      { keys: ["Ctrl+c"], does: "Copy the selected poses or keys", run: copy },
      { keys: ["Ctrl+v"], does: "Paste at the frame that shows", run: () => paste() },
      { keys: ["Ctrl+Shift+v"], does: "Paste mirrored", run: () => paste({ mirrored: true }) },
      { keys: ["Alt+ArrowLeft"], does: "Move the selected keys a frame back", run: () => nudge(-1) },
      { keys: ["Alt+ArrowRight"], does: "Move the selected keys a frame on", run: () => nudge(1) },
      {
        keys: ["Escape"],
        does: "Put back what was tried",
        run: () =>
          get().capture && get().capture!.count === null
            ? see({ capture: null })
            : get().pose
              ? putBack()
              : pickOut({ keys: [], poses: [], pieces: [], joint: null, plant: null }),
      },
    ],
    [hand],
  );
  useShortcuts(shortcuts);
}
