import { expect, it } from "vitest";
import type { Document } from "../wire/types";
import { blank, following, type State } from "./state";

const motion = (id: string, puppet: string) => ({ kind: "motion", id, name: id, puppet, length: 48 });
const DOCUMENTS = Object.fromEntries(
  [
    { kind: "production", id: "p", name: "Quay", shots: ["s", "t"] },
    { kind: "puppet", id: "gull", name: "Gull", joints: { wing: { id: "wing", name: "wing" } } },
    { kind: "puppet", id: "guard", name: "Guard", joints: { arm: { id: "arm", name: "arm" } } },
    motion("flap", "gull"),
    motion("glide", "gull"),
    motion("wave", "guard"),
    { kind: "shot", id: "s", name: "One", length: 48 },
    { kind: "shot", id: "t", name: "Two", length: 48 },
  ].map((d) => [d.id, d as unknown as Document]),
);
const TRIED = { tried: {} } as unknown as State["pose"];
const HERE: State = {
  ...blank("p"),
  ready: true,
  documents: DOCUMENTS,
  puppet: "gull",
  motion: "flap",
  joint: "wing",
  joints: ["wing"],
  limbBegins: "wing",
  shot: "s",
  frame: 7,
  pose: TRIED,
};

it.each<[string, Partial<State>, Partial<State>]>([
  ["another frame puts back what is tried", { frame: 8 }, { frame: 8, pose: null, motion: "flap", joint: "wing" }],
  ["the same frame does not", { frame: 7 }, { pose: TRIED }],
  ["nor does a frame while a hand is recorded", { frame: 8, playing: true }, { frame: 8, pose: TRIED }],
  ["what comes with it is tried", { frame: 8, pose: TRIED }, { pose: TRIED }],
  [
    "another motion of the puppet",
    { motion: "glide" },
    { motion: "glide", puppet: "gull", joint: "wing", joints: ["wing"], pose: null },
  ],
  [
    "another's motion brings its puppet",
    { motion: "wave" },
    { motion: "wave", puppet: "guard", joint: null, pose: null },
  ],
  ["also where the puppet is not known", { motion: "wave", puppet: null }, { motion: "wave", puppet: "guard" }],
  [
    "another puppet brings its motion",
    { puppet: "guard" },
    { puppet: "guard", motion: "wave", joint: null, pose: null, limbBegins: null },
  ],
  ["both, as they belong together", { puppet: "guard", motion: "wave" }, { puppet: "guard", motion: "wave" }],
  [
    "a motion that is not the puppet's is not done",
    { puppet: "guard", motion: "glide" },
    { puppet: "guard", motion: "wave" },
  ],
  ["another shot", { shot: "t" }, { shot: "t", pose: null }],
  ["what says nothing of what is looked at", { snap: false }, { snap: false, pose: TRIED, joint: "wing" }],
])("%s", (_, given, wanted) => {
  expect({ ...HERE, ...following(HERE, given) }).toMatchObject(wanted);
});

it("leaves everything as it is given until there are documents", () => {
  const early = { ...HERE, ready: false, documents: {} };
  expect(following(early, { puppet: "guard", frame: 3 })).toEqual({ puppet: "guard", frame: 3 });
});
