/** Placing loose pieces: drag to move, pull a handle to turn or scale, drag the pin to set the pivot. */
import { minus } from "../../geometry";
import { get, puppetOf, putBack, tryPose, pickOut, submit, tryOut } from "../../session";
import type { Command, Point } from "../../wire/types";
import { meant, pick } from "../pick";
import { Newest, trying, type Drag, type Hand, type Tool } from "../tool";

export const placeTool = (): Tool => ({
  begin(hand) {
    const { hit } = hand;
    if (hit?.kind === "pin") return setting(hit.piece, hand.at);
    if (hit?.kind === "axis") return carryingAxis;
    if (hit?.kind === "turn" || hit?.kind === "scale") return pulling(hit.piece, hit.kind, hand.at);
    const chosen = get().pieces;
    const piece = meant(hand.at);
    const fresh = !piece || !chosen.includes(piece);
    if (fresh || hand.shift) {
      if (hand.shift && piece)
        pickOut({ pieces: chosen.includes(piece) ? chosen.filter((p) => p !== piece) : [...chosen, piece] });
      else pickOut({ pieces: piece ? [piece] : [], isolated: get().isolated && !!piece });
    }
    if (!get().pieces.length || !piece) return null;
    return shifting(hand, fresh || hand.shift);
  },
});

/** The axis of the other side is carried across, in whole units. */
const carryingAxis: Drag = {
  move: (hand) => tryOut({ axisAt: Math.round(hand.at[0]) }),
  end: (_, moved) => {
    const [axis, { puppet }] = [get().axisAt, get()];
    tryOut({ axisAt: null });
    if (moved && puppet && axis !== null) void submit({ do: "set-puppet", puppet, axis });
  },
  cancel: () => tryOut({ axisAt: null }),
};

/** The command on the puppet that is shown, if there is one. */
const onPuppet = (make: (puppet: string) => Command): Command | null => {
  const { puppet } = get();
  return puppet ? make(puppet) : null;
};

function shifting(from: Hand, fresh: boolean): Drag {
  const { pieces } = get();
  return trying({
    command: (hand) =>
      onPuppet((puppet) => {
        const [dx, dy] = minus(hand.at, from.at);
        return { do: "shift-pieces", puppet, pieces, dx, dy, one_way: hand.shift };
      }),
    // A second click on the same place reaches the piece behind.
    click: (hand) => {
      const piece = fresh ? null : pick(hand.at, true);
      if (piece) pickOut({ pieces: [piece] });
    },
  });
}

const pulling = (piece: string, pull: "turn" | "scale", grabbed: Point): Drag =>
  trying({
    command: (hand) =>
      onPuppet((puppet) => ({
        do: "pull-piece",
        puppet,
        piece,
        pull,
        grabbed,
        hand: hand.at,
        whole_steps: hand.shift,
      })),
  });

/** The pin goes as far as the hand does, wherever it was taken hold of. */
function setting(piece: string, grabbed: Point): Drag {
  const [px, py] = get().plan?.places[piece] ?? grabbed;
  return trying({
    command: (hand) =>
      onPuppet((puppet) => {
        const [dx, dy] = minus(hand.at, grabbed);
        return { do: "set-pivot", puppet, piece, x: px! + dx, y: py! + dy };
      }),
    done: (made) => made && moves() && swing(piece),
  });
}

/** Whether things may move by themselves, as the system was told. */
const moves = () => !matchMedia("(prefers-reduced-motion: reduce)").matches;

/** Turn a piece a little to and fro about its pivot, and leave it as it was. */
export function swing(piece: string): void {
  const joint = puppetOf(get())?.pieces?.[piece]?.joint;
  if (!joint) return;
  const began = performance.now();
  const newest = new Newest();
  let over = false;
  const step = (now: number) => {
    const t = (now - began) / 900;
    // The hand goes before: what it takes next is not swung about under it.
    if (t >= 1 || get().bench !== "pieces" || get().pieces[0] !== piece) {
      // An answer still on its way must not bring the swing back.
      over = true;
      putBack();
      return;
    }
    const angle = 22 * Math.sin(t * Math.PI * 4) * (1 - t);
    newest.ask(async () => {
      const pose = await tryPose(0, { [`${joint}.turn`]: [angle] });
      if (pose && !over) tryOut({ pose });
    });
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
}
