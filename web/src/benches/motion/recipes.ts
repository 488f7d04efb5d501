/** What the recipes are called, what they are set by, and what a new one starts from. */
import { freshId, type State } from "../../session";
import type { Motion, Preset, Puppet, Recipe } from "../../wire/types";

export type Kind = Recipe["kind"];

export interface Setting {
  key: string;
  label: string;
  unit: string;
  min: number;
  max: number;
  step?: number;
  /** What it stands at where the recipe says nothing. */
  start: number;
  /** Whether it counts for a recipe as that stands. */
  when?: (recipe: Recipe) => boolean;
}

interface Described {
  name: string;
  does: string;
  settings: Setting[];
}

const n = (key: string, label: string, unit: string, min: number, max: number, start: number, step = 1): Setting => ({
  key,
  label,
  unit,
  min,
  max,
  start,
  step,
});

/** Only shown while a recipe says so. */
const only = (setting: Setting, when: (recipe: Recipe) => boolean): Setting => ({ ...setting, when });

export const RECIPES: Record<Kind, Described> = {
  gait: {
    name: "Gait",
    does: "walks, runs, sneaks: a cycle of labelled poses",
    settings: [
      n("frames", "Frames a cycle", "fr", 8, 48, 24, 1),
      n("step", "Step (0 is natural)", "u", 0, 400, 0, 1),
      n("lift", "Foot lift", "% of leg", 0, 40, 6),
      n("knee", "Knee lift", "% of leg", 0, 40, 0),
      n("bounce", "Bounce", "% of leg", 0, 20, 5, 0.5),
      n("lean", "Lean", "°", -20, 30, 2),
      n("arms", "Arm swing", "°", 0, 80, 24),
      n("elbow", "Elbow bend", "°", 0, 120, 14),
      n("twist", "Twist", "°", 0, 20, 5),
      n("roll", "Foot roll", "%", 0, 150, 100, 5),
      n("lag", "Head lag", "fr", 0, 6, 1, 0.5),
      n("weight", "Light to heavy", "", -100, 100, 0, 5),
      n("uneven", "Unevenness", "%", 0, 50, 0),
    ],
  },
  capture: {
    name: "Capture",
    does: "what a pointer does, recorded while all else plays",
    settings: [
      n("smooth", "Smoothed over", "fr", 0, 12, 1, 0.5),
      only(n("tolerance", "Within", "u or °", 0.1, 60, 1.5, 0.1), (r) => r.kind === "capture" && r.thin !== "every"),
      only(n("every", "A key every", "fr", 1, 24, 2), (r) => r.kind === "capture" && r.thin === "every"),
      n("speed", "Speed", "%", 10, 400, 100, 5),
      n("first", "From", "% of it", 0, 100, 0),
      n("last", "To", "% of it", 0, 100, 100),
      n("start", "At frame (from 0)", "fr", 0, 400, 0),
    ],
  },
  follow: {
    name: "Follow-through",
    does: "a chain swings behind what carries it",
    settings: [
      n("frequency", "Swings", "a second", 0.2, 8, 1.6, 0.1),
      n("damping", "Damping", "", 0, 2, 0.3, 0.05),
      n("slower", "Slower down the chain", "×", 0.5, 3, 1.2, 0.05),
      n("pull", "Drag", "%", 0, 300, 100, 5),
      n("every", "A key every", "fr", 1, 12, 2),
    ],
  },
  settle: {
    name: "Overshoot and settle",
    does: "past the pose, and back until it stands",
    settings: [
      n("amount", "Past it by", "% of the move", 0, 100, 15),
      n("swings", "Swings", "", 1, 8, 2),
      n("frames", "A swing takes", "fr", 2, 24, 6),
      n("damping", "Lost each swing", "%", 0, 95, 55, 5),
    ],
  },
  anticipate: {
    name: "Anticipation",
    does: "back before it goes",
    settings: [n("amount", "Back by", "% of the move", 0, 100, 15), n("frames", "For", "fr", 1, 24, 4)],
  },
  squash: {
    name: "Squash and stretch",
    does: "flat where it strikes, long where it is fast, its area kept",
    settings: [n("squash", "Squash", "%", 0, 80, 30), n("stretch", "Stretch", "%", 0, 100, 20)],
  },
  bounce: {
    name: "Bounce to rest",
    does: "a fall and its rebounds, as gravity has them",
    settings: [
      n("height", "From", "u", 10, 1000, 200, 5),
      n("frames", "The first fall takes", "fr", 2, 48, 10),
      n("keeps", "Keeps", "% of its speed", 0, 95, 60),
      n("bounces", "Bounces", "", 0, 10, 4),
      n("across", "Across", "u", -1000, 1000, 0, 5),
    ],
  },
  blink: {
    name: "Blinks",
    does: "on an irregular rhythm",
    settings: [
      n("seconds", "About every", "s", 0.5, 12, 3, 0.1),
      n("uneven", "Irregular", "%", 0, 100, 50, 5),
      n("hold", "Shut for", "fr", 1, 12, 2),
      n("shut", "Shut at", "", -100, 100, 100),
      n("seed", "Another rhythm", "no.", 0, 999, 1),
    ],
  },
  mouths: {
    name: "Mouths",
    does: "to the words of a line",
    settings: [
      n("lead", "Ahead of the sound", "fr", -2, 4, 1.5, 0.25),
      n("hold", "A mouth stays at least", "fr", 1, 6, 2),
      n("strength", "How wide they open", "%", 20, 160, 100, 5),
    ],
  },
  accents: {
    name: "Accents",
    does: "head and brows on the stressed words of a line",
    settings: [
      n("nod", "The head nods by", "°", -20, 20, 5, 0.5),
      n("lift", "Brows rise by", "u", 0, 30, 4, 0.5),
      n("lead", "Ahead of the word", "fr", 0, 8, 3),
    ],
  },
};

export const PRESETS: Preset[] = [
  "walk", "stroll", "brisk", "tired", "proud", "heavy", "sneak", "limp", "run", "sprint", "skip", "trot", "gallop",
]; // prettier-ignore

/** A new recipe of a kind, on what is selected; or why there can't be one. */
export function started(kind: Kind, now: State, puppet: Puppet, motion: Motion): Recipe | string {
  const base = { id: freshId(), name: RECIPES[kind].name };
  const joint = now.joint;
  const channels = [...new Set(now.keys.map((k) => k.channel))];
  const all = Object.keys(motion.channels ?? {});
  switch (kind) {
    case "gait":
      return { kind, ...base, name: "Walk" };
    case "capture":
      return "Press Capture over the stage, then draw on it.";
    case "follow":
      return joint && joint !== "puppet"
        ? { kind, ...base, joints: [joint] }
        : "Select the joint nearest to what carries the chain.";
    case "squash":
    case "bounce":
      return { kind, ...base, joint: joint ?? "puppet" };
    case "settle":
    case "anticipate":
      return all.length
        ? {
            kind,
            ...base,
            channels: channels.length ? channels : all,
            frame: now.keys[0]?.frame ?? now.poses[0] ?? now.frame,
          }
        : "Key a move first.";
    case "mouths":
      return now.line ? { kind, ...base, sound: now.line } : "Bring in a line on the Voice bench first.";
    case "accents": {
      const joints = Object.values(puppet.joints ?? {});
      const head = joints.find((j) => j.role === "head") ?? joints.find((j) => /head/i.test(j.name));
      const brows = joints.filter((j) => /brow/i.test(j.name)).map((j) => j.id);
      if (!now.line) return "Bring in a line on the Voice bench first.";
      return head || brows.length
        ? { kind, ...base, sound: now.line, head: head?.id ?? null, brows }
        : "Accents need a joint for the head, or for the brows.";
    }
    case "blink": {
      const dial =
        Object.values(puppet.dials ?? {}).find((d) => /blink|lid|eye/i.test(d.name)) ??
        Object.values(puppet.dials ?? {})[0];
      return dial
        ? { kind, ...base, dial: dial.id, shut: dial.high ?? 100, sound: now.bench === "voice" ? now.line : null }
        : "Blinks need a dial that shuts the eyes: make one on the Rig bench.";
    }
  }
}
