/** The keyboard of the Shots bench. */
import { useMemo } from "react";
import { get, goTo, playedOf, shotOf, shotsOf, toggle, toKey, useWorkshop, see, pickOut } from "../../session";
import { useShortcuts, type Shortcut } from "../../ui/shortcuts";
import { togglePosing } from "./posing";
import {
  addShot,
  duplicatePicked,
  keyPicked,
  nudgeCast,
  openFilm,
  openShot,
  openShown,
  removePicked,
  splitSpan,
} from "./commands";

/** Move who is picked by so many units. */
function nudge(x: number, y: number): void {
  const { picked } = get();
  const id = picked?.kind === "cast" ? picked.id : picked?.kind === "span" ? picked.cast : null;
  if (id) void nudgeCast(id, [x, y]);
}

const SHOT: Shortcut[] = [
  { keys: ["k"], does: "Key the camera, or the place of who is picked", run: keyPicked },
  { keys: ["/"], does: "Cut the picked span in two here", run: splitSpan },
  { keys: ["Delete", "Backspace"], does: "Remove what is picked", run: removePicked },
  { keys: ["d"], does: "Once more what is picked", run: () => void duplicatePicked() },
  { keys: ["n"], does: "A new shot after this one", run: () => void addShot() },
  { keys: ["t"], does: "Through the camera, or the whole stage", run: () => see({ through: !get().through }) },
  { keys: ["p"], does: "Pose who is picked, in this shot only", run: togglePosing },
  { keys: ["c"], does: "Pick the camera", run: () => pickOut({ picked: { kind: "camera" }, shotKeys: [] }) },
  { keys: ["PageUp"], does: "The shot before", run: () => step(-1) },
  { keys: ["PageDown"], does: "The next shot", run: () => step(1) },
  {
    keys: ["Shift+ArrowLeft"],
    does: "Shift with the arrows moves who is picked by ten units",
    run: () => nudge(-10, 0),
  },
  { keys: ["Shift+ArrowRight"], run: () => nudge(10, 0) },
  { keys: ["Shift+ArrowUp"], run: () => nudge(0, -10) },
  { keys: ["Shift+ArrowDown"], run: () => nudge(0, 10) },
  { keys: ["Escape"], does: "Pose nobody; pick nothing", run: leave },
];

/** Of the whole film only what shows is chosen. */
const FILM: Shortcut[] = [
  { keys: ["PageUp"], does: "The shot before", run: () => toKey(-1) },
  { keys: ["PageDown"], does: "The next shot", run: () => toKey(1) },
  { keys: ["Enter"], does: "Into the shot that shows", run: openShown },
];

export function useShotKeys(): void {
  const film = useWorkshop((w) => w.wholeFilm);
  const shortcuts = useMemo<Shortcut[]>(
    () => [
      { keys: [" "], does: "Play or pause", run: toggle },
      { keys: ["ArrowLeft"], does: "A frame back", run: () => goTo(get().frame - 1) },
      { keys: ["ArrowRight"], does: "A frame on", run: () => goTo(get().frame + 1) },
      { keys: ["f"], does: "The whole film", run: openFilm },
      { keys: ["Home"], does: "To the start of what plays", run: () => goTo(start()) },
      { keys: ["End"], does: "To the last frame that plays", run: () => goTo(end()) },
      { keys: [","], does: "To the key or span before", run: () => toKey(-1) },
      { keys: ["."], does: "To the next key or span", run: () => toKey(1) },
      ...(film ? FILM : SHOT),
    ],
    [film],
  );
  useShortcuts(shortcuts);
}

const start = (): number => {
  const shot = shotOf(get());
  return shot && !get().wholeFilm ? playedOf(shot)[0] : 0;
};
const end = (): number => {
  const { film, wholeFilm } = get();
  const shot = shotOf(get());
  return wholeFilm ? (film?.frames ?? 1) - 1 : shot ? playedOf(shot)[1] - 1 : 0;
};

/** Leave what is being done: first posing, then what is picked. */
function leave(): void {
  if (get().posing) pickOut({ posing: null, joint: null, pose: null });
  else pickOut({ picked: null, shotKeys: [], range: null });
}

function step(by: 1 | -1): void {
  const shots = shotsOf(get());
  const at = shots.findIndex((s) => s.id === get().shot);
  const next = shots[at + by];
  if (next) openShot(next.id);
}
