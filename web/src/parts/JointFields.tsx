/** Turn, place and size of a joint by numbers: keyed in a motion, or only tried. */
import type { ReactNode } from "react";
import type { ChannelKind, HalfPlace } from "../wire/types";
import { NumberField } from "../ui/fields";

interface Props {
  /** Before the ids of the fields, where two of them stand on a page. */
  id?: string;
  value: (kind: ChannelKind, neutral: number[]) => number[];
  /** Of what is not typed null: it is as it is. */
  put: (kind: ChannelKind, numbers: (number | null)[]) => void;
  /** What stands beside the label of a kind. */
  mark?: (kind: ChannelKind) => ReactNode;
}

export function JointFields({ id = "v", value, put, mark }: Props) {
  const turn = value("turn", [0]);
  const move = value("move", [0, 0]);
  const size = value("scale", [1, 1]);
  return (
    <div className="fields">
      <label htmlFor={`${id}-turn`}>Turn{mark?.("turn")}</label>
      <NumberField always id={`${id}-turn`} value={turn[0]!} unit="°" onCommit={(v) => put("turn", [v])} />
      <span className="faint">Place{mark?.("move")}</span>
      <PlaceFields always id={id} at={[move[0]!, move[1]!]} put={(at) => put("move", at)} />
      <span className="faint">Size{mark?.("scale")}</span>
      <div className="pair">
        <NumberField
          always
          id={`${id}-w`}
          label="Width"
          value={size[0]! * 100}
          unit="%"
          onCommit={(v) => put("scale", [v / 100, null])}
        />
        <NumberField
          always
          id={`${id}-h`}
          label="Height"
          value={size[1]! * 100}
          unit="%"
          onCommit={(v) => put("scale", [null, v / 100])}
        />
      </div>
    </div>
  );
}

interface PlaceProps {
  id: string;
  /** What is placed, where the page has other places too. */
  of?: string;
  at: [number, number];
  always?: boolean;
  /** Of what is not typed null: it is as it is. */
  put: (at: HalfPlace) => void;
}

/** A place in stage units, across and down. */
export function PlaceFields({ id, of, at, always, put }: PlaceProps) {
  const label = (way: string) => (of ? `${of}, ${way === "across" ? "x" : "y"}` : way[0]!.toUpperCase() + way.slice(1));
  return (
    <div className="pair">
      <NumberField
        always={always}
        id={`${id}-x`}
        label={label("across")}
        value={at[0]}
        unit="u"
        onCommit={(x) => put([x, null])}
      />
      <NumberField
        always={always}
        id={`${id}-y`}
        label={label("down")}
        value={at[1]}
        unit="u"
        onCommit={(y) => put([null, y])}
      />
    </div>
  );
}
