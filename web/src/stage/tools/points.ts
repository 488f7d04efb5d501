/** Editing the points of a shape drawn here: drag one, click the line to add one. */
import { get, puppetOf, submit, pickOut } from "../../session";
import type { Point } from "../../wire/types";
import { pick } from "../pick";
import { trying, type Drag, type Tool } from "../tool";

/** Tells which point is chosen, and where the hand holds it while it is dragged. */
type Choose = (point: number | null, at: Point | null) => void;

export const pointsTool = (choose: Choose): Tool => ({
  begin({ hit, at }) {
    const { puppet, pieces } = get();
    const piece = pieces[0];
    if (puppet && piece && hit?.kind === "point") {
      choose(hit.point, null);
      return moving(puppet, piece, hit.point, choose);
    }
    if (puppet && piece && hit?.kind === "edge") {
      void submit({ do: "edit-shape", puppet, piece, edit: "add", at });
      return null;
    }
    const found = pick(at, true);
    if (found && puppetOf(get())?.pieces?.[found]) pickOut({ pieces: [found] });
    choose(null, null);
    return null;
  },
});

function moving(puppet: string, piece: string, point: number, choose: Choose): Drag {
  const drag = trying({
    command: (hand) => {
      choose(point, hand.at);
      return { do: "edit-shape", puppet, piece, edit: "move", point, at: hand.at };
    },
    done: () => choose(point, null),
  });
  return {
    ...drag,
    cancel() {
      drag.cancel();
      choose(point, null);
    },
  };
}
