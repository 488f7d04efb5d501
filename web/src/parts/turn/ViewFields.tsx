/** What a view is called, where it lies, and to which part what is played swings in it. */
import { submit } from "../../session";
import { NumberRow, TextField } from "../../ui/fields";
import type { Dial, TurnView } from "../../wire/types";

type View = NonNullable<Dial["stops"]>[number];

interface Props {
  view: View;
  whole: TurnView["views"][number] | undefined;
  base: { puppet: string; dial: string };
  moved: (at: number) => void;
}

export function ViewFields({ view, whole, base, moved }: Props) {
  const put = (given: { name?: string; to?: number; shorten?: number; arms?: number; legs?: number }) =>
    void submit({ do: "set-view", ...base, at: view.at, ...given }).then((done) => {
      if (done && given.to !== undefined) moved(given.to);
    });
  const swings = (id: string, label: string, part: number, of: "shorten" | "arms" | "legs") => (
    <NumberRow
      id={id}
      label={label}
      of="SetView.shorten"
      times={100}
      value={part}
      unit="%"
      digits={0}
      onCommit={(v) => put({ [of]: v })}
    />
  );
  return (
    <div className="fields mt-1">
      <label htmlFor="view-name">View</label>
      <TextField
        id="view-name"
        label="Name of the view"
        longest={60}
        value={view.name}
        onCommit={(name) => put({ name })}
      />
      {view.at > 0 && (
        <>
          <NumberRow
            id="view-at"
            label="Lies at"
            of="SetView.to"
            value={view.at}
            unit="°"
            onCommit={(to) => put({ to })}
          />
          {swings("view-shorten", "Swings to", view.shorten, "shorten")}
          {whole && swings("view-arms", "Arms to", whole.arms, "arms")}
          {whole && swings("view-legs", "Legs to", whole.legs, "legs")}
        </>
      )}
    </div>
  );
}
