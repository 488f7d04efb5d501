/** Linking on the figure: drag from a piece to the piece it should hang on. */
import { get, puppetOf, submit, pickOut } from "../../session";
import type { Point } from "../../wire/types";
import { pick, piecesAt } from "../pick";
import { pieceOn } from "../scene";
import type { Drag, Hand, Tool } from "../tool";

export interface Reaching {
  from: string;
  to: Point;
  over: string | null;
}

type Show = (reaching: Reaching | null) => void;

export const linkTool = (show: Show): Tool => ({
  begin({ hit, at }) {
    const puppet = puppetOf(get());
    const piece = hit?.kind === "joint" ? null : pick(at, false);
    const joint = hit?.kind === "joint" ? hit.joint : piece ? puppet?.pieces?.[piece]?.joint : null;
    const owner = joint ? pieceOn(joint) : null;
    pickOut({ pieces: piece ? [piece] : owner ? [owner] : [], joint: joint ?? null });
    return joint ? reaching(joint, show) : null;
  },
});

function reaching(from: string, show: Show): Drag {
  const target = ({ hit, at }: Hand): string | null => {
    if (hit?.kind === "joint" && hit.joint !== from) return hit.joint;
    const puppet = puppetOf(get());
    const found = piecesAt(at).map((p) => puppet?.pieces?.[p]?.joint);
    return found.find((j) => j && j !== from) ?? null;
  };
  return {
    move: (hand) => show({ from, to: hand.at, over: target(hand) }),
    end(hand, moved) {
      const { puppet } = get();
      const over = target(hand);
      show(null);
      if (moved && over && puppet) void submit({ do: "link-joint", puppet, joint: from, parent: over });
    },
    cancel: () => show(null),
  };
}
