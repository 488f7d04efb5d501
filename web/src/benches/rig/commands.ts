/** What the Rig bench does to joints, by button or by key. */
import { gathered, get, submit, pickOut } from "../../session";

export type Mode = "link" | "joints" | "handles" | "paint" | "try";

export const LABELS: Record<Mode, string> = {
  link: "Stage: drag from a piece to the piece it hangs on",
  joints: "Stage: click to draw joints, each hanging on the selected one",
  handles: "Stage: click to set handles",
  paint: "Stage: paint weights of the selected joint",
  try: "Stage: pull pieces to try the puppet",
};

const move = gathered((dx, dy, of) => {
  const [puppet, joint] = of.split(" ");
  return submit({ do: "move-joints", puppet: puppet!, joints: [joint!], dx, dy });
});

/** Move the chosen joint or handle, and nothing else with it. */
export const moveJoint = (dx: number, dy: number) => {
  const { puppet, joint } = get();
  if (puppet && joint && joint !== "puppet") move(`${puppet} ${joint}`, dx, dy);
};

export const unlink = () => {
  const { puppet, joint } = get();
  if (puppet && joint && joint !== "puppet") void submit({ do: "link-joint", puppet, joint, parent: null });
};

export const removeJoint = () => {
  const { puppet, joint } = get();
  if (puppet && joint && joint !== "puppet")
    void submit({ do: "remove-joints", puppet, joints: [joint] }).then((done) => done && pickOut({ joint: null }));
};
