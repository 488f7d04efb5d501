/** The ways in which a hand pulls on the stage, and the buttons that choose one: the same on every bench. */
import { IconButton } from "../ui/bits";
import type { Pull } from "../wire/types";

export const PULLS: readonly { id: Pull; icon: string; text: string; label: string; keys: string }[] = [
  { id: "turn", icon: "arrow-clockwise", text: "Turn", label: "Pull to turn", keys: "t" },
  { id: "move", icon: "arrows-move", text: "Move", label: "Pull to move", keys: "m" },
  { id: "scale", icon: "arrows-angle-expand", text: "Size", label: "Pull to size; Shift keeps the shape", keys: "s" },
  { id: "limb", icon: "bezier", text: "Limb", label: "Pull a hand or a foot, and its limb goes along", keys: "l" },
];

interface Props {
  pull: Pull;
  setPull: (pull: Pull) => void;
  /** Which there are here; all, if untold. */
  of?: readonly Pull[];
  /** Whether each is a symbol alone, without a key of its own. */
  bare?: boolean;
}

export function PullButtons({ pull, setPull, of, bare }: Props) {
  return PULLS.filter((p) => !of || of.includes(p.id)).map((p) => (
    <IconButton
      key={p.id}
      icon={p.icon}
      label={p.label}
      keys={bare ? undefined : p.keys}
      text={bare ? undefined : p.text}
      pressed={pull === p.id}
      onClick={() => setPull(p.id)}
    />
  ));
}
