/**
 * The ways in which the page changes what is looked at, what of it is in hand, how it is seen, and what is tried: each may
 * touch only its own part of the state, and those that it draws along. What else has to follow, whoever asks, follows in
 * `following`. Everything else of the state is what the service said, and the session's own to write.
 */
import type { RenderView } from "../wire/types";
import type { State } from "./state";

/** What is looked at. */
type Looked = Pick<State, "bench" | "puppet" | "motion" | "shot" | "wholeFilm" | "film" | "frame">;
/** What of it is in hand. */
type Picked = Pick<
  State,
  "pieces" | "joint" | "joints" | "keys" | "poses" | "plant" | "line" | "entry" | "recipe" | "picked" | "shotKeys"
>;
/** How it is seen, heard and worked on. */
type Seen = Pick<
  State,
  | "blocking"
  | "brought"
  | "capture"
  | "choosing"
  | "clip"
  | "cropped"
  | "longLine"
  | "guides"
  | "isolated"
  | "limbBegins"
  | "loop"
  | "masked"
  | "mouthsWait"
  | "onion"
  | "playing"
  | "poseOver"
  | "posing"
  | "range"
  | "reusing"
  | "seenAs"
  | "snap"
  | "speed"
  | "through"
  | "unseen"
  | "wayShown"
>;
/** What a hand tries, and nobody keeps. */
type Tried = Pick<State, "pose" | "trial" | "shifted" | "pulledWay" | "boxed" | "axisAt">;

/** Where the open session is, if one is. */
type Open = () => { get: () => State; set: (given: Partial<State>) => void } | null;

export function acts(open: Open) {
  const put = (given: Partial<State>): void => open()?.set(given);
  return {
    /** Another bench, puppet, motion, shot or frame. */
    turnTo: (where: Partial<Looked & Picked & Seen & Tried>): void => put(where),
    /** What is selected. */
    pickOut: (what: Partial<Picked & Seen & Tried>): void => put(what),
    see: (how: Partial<Seen & Tried>): void => put(how),
    tryOut: (what: Partial<Tried>): void => put(what),
    /** A film that was ordered here, until the service tells of it. */
    awaitRender(made: RenderView): void {
      const renders = open()?.get().renders ?? {};
      if (!renders[made.id]) put({ renders: { ...renders, [made.id]: made } });
    },
    forgetRender(id: string): void {
      const { [id]: _, ...renders } = open()?.get().renders ?? {};
      put({ renders });
    },
  };
}
