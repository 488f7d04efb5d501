/** A turnaround: the views of a puppet on one dial, each with its drawings, places and what is seen. */
import { useEffect, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { freshId, putBack, submit, tryPose, tryRest, useWorkshop, type Pose } from "../session";
import { painter } from "../stage/painter";
import { boxOf } from "../stage/scene";
import { trier } from "../stage/tool";
import type { Dial, Piece, Puppet } from "../wire/types";
import { IconButton, Painted } from "../ui/bits";
import { NumberRow, SwitchRow, TextField } from "../ui/fields";
import { Fold } from "../ui/Fold";

type View = NonNullable<Dial["stops"]>[number];
const [W, H] = [62, 78];
const slider = trier((tried) => tryPose(0, tried));

export function TurnCard({ puppet }: { puppet: Puppet }) {
  const dial = Object.values(puppet.dials ?? {}).find((d) => d.turns);
  if (!dial)
    return (
      <Fold title="Turn" note="one view" open={false}>
        <p className="hint mt-0">
          Seen from several sides, a puppet has a view for each: drawings, places of joints, what is in front and what
          is seen. One dial turns it through them.
        </p>
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => void submit({ do: "add-turnaround", puppet: puppet.id, id: freshId() })}
        >
          Let it be turned
        </Button>
      </Fold>
    );
  return <Views puppet={puppet} dial={dial} />;
}

function Views({ puppet, dial }: { puppet: Puppet; dial: Dial }) {
  const views = dial.stops ?? [];
  const poses = useViews(puppet, dial);
  const [at, setAt] = useState(0);
  const channel = `${dial.id}.dial`;
  const tried = useWorkshop((w) => w.pose?.tried);
  const view = views.find((v) => v.at === at);
  const turn = (value: number) => {
    setAt(value);
    putBack();
    if (value) slider(channel, [value]);
  };
  const slide = (value: number) => {
    setAt(value);
    slider(channel, [value]);
  };
  const base = { puppet: puppet.id, dial: dial.id };
  const own = Object.fromEntries(Object.entries(tried ?? {}).filter(([id]) => id !== channel));
  /** Keep these in the view, and go on looking at it. */
  const keep = async (more: Record<string, number[]>) => {
    if (!view) return;
    const done = await submit({ do: "keep-view", ...base, at: view.at, tried: more });
    if (!done) return;
    putBack();
    if (at) slider(channel, [at]);
  };
  const flippable = views.some((v) => v.at > 0 && v.at < 180 && v.of == null && !views.some((o) => o.of === v.at));
  return (
    <Fold title="Turn" note={`${views.length} views`}>
      <div className="drawing-grid" role="listbox" aria-label="Views">
        {views.map((v) => (
          <button
            key={v.at}
            type="button"
            role="option"
            aria-selected={v.at === at}
            className={`drawing-card view${v.at === at ? " chosen" : ""}`}
            title={v.of != null ? `${v.name}: the view at ${v.of}° in the mirror` : v.name}
            onClick={() => turn(v.at)}
          >
            <ViewThumb pose={poses[v.at]} />
            <span>{v.name || `${v.at}°`}</span>
          </button>
        ))}
      </div>
      <div className="dial mt-1">
        <span className="name">{dial.name}</span>
        <Form.Range
          aria-label={`Try ${dial.name}`}
          aria-valuetext={`${Math.round(at)} degrees`}
          min={0}
          max={360}
          step={1}
          value={at}
          onChange={(e) => slide(Number(e.target.value))}
        />
        <span className="faint small">{Math.round(at)}°</span>
      </div>
      <div className="fields mt-1">
        <label htmlFor="turn-between">Between views</label>
        <Form.Select
          id="turn-between"
          size="sm"
          value={dial.between ?? "hold"}
          onChange={(e) =>
            void submit({
              do: "set-dial",
              puppet: puppet.id,
              dial: { ...dial, between: e.target.value as "hold" | "morph" },
            })
          }
        >
          <option value="hold">held</option>
          <option value="morph">morph</option>
        </Form.Select>
      </div>
      {view && <ViewFields key={view.at} view={view} base={base} moved={setAt} />}
      {view && view.at > 0 && (
        <Seen puppet={puppet} dial={dial} view={view} keep={(more) => void keep({ ...own, ...more })} />
      )}
      {view && view.at > 0 && (
        <Button size="sm" className="w-100 mt-2" disabled={!Object.keys(own).length} onClick={() => void keep(own)}>
          Keep what is tried in {view.name || "this view"}
        </Button>
      )}
      {view && view.at === 0 && (
        <p className="hint mb-0">
          The first view is how the puppet is rigged. Choose another to pose it as it is seen there.
        </p>
      )}
      {!view && <p className="hint mb-0">Choose a view to change it.</p>}
      <div className="d-flex flex-wrap gap-1 mt-2">
        <Button size="sm" variant="outline-primary" onClick={() => void submit({ do: "add-view", ...base })}>
          Add a view
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          disabled={!flippable}
          title="Every view between front and back once more, in the mirror; later changes go along"
          onClick={() => void submit({ do: "flip-views", ...base })}
        >
          Make the second half
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          title="Pieces called “head front”, “head side” and so on become one piece, each drawing seen in its view"
          onClick={() => void submit({ do: "gather-views", ...base })}
        >
          Views by name
        </Button>
        {view && view.at > 0 && (
          <IconButton
            quiet
            icon="trash"
            label={`Remove the view ${view.name}`}
            onClick={() => {
              turn(0);
              void submit({ do: "remove-view", ...base, at: view.at });
            }}
          />
        )}
      </div>
    </Fold>
  );
}

function ViewFields({
  view,
  base,
  moved,
}: {
  view: View;
  base: { puppet: string; dial: string };
  moved: (at: number) => void;
}) {
  const put = (given: { name?: string; to?: number; shorten?: number }) =>
    void submit({ do: "set-view", ...base, at: view.at, ...given }).then((done) => {
      if (done && given.to !== undefined) moved(given.to);
    });
  return (
    <div className="fields mt-1">
      <label htmlFor="view-name">View</label>
      <TextField
        id="view-name"
        label="Name of the view"
        longest={60}
        value={view.name ?? ""}
        onCommit={(name) => put({ name })}
      />
      {view.at > 0 && (
        <>
          <NumberRow
            id="view-at"
            label="Lies at"
            value={view.at}
            unit="°"
            min={0.5}
            max={359.5}
            onCommit={(to) => put({ to })}
          />
          <NumberRow
            id="view-shorten"
            label="Swings to"
            value={(view.shorten ?? 1) * 100}
            unit="%"
            digits={0}
            min={0}
            max={100}
            onCommit={(part) => put({ shorten: part / 100 })}
          />
        </>
      )}
    </div>
  );
}

/** What of the selected piece is seen in a view. */
function Seen({
  puppet,
  dial,
  view,
  keep,
}: {
  puppet: Puppet;
  dial: Dial;
  view: View;
  keep: (more: Record<string, number[]>) => void;
}) {
  const chosen = useWorkshop((w) => w.pieces[0]);
  const joint = useWorkshop((w) => w.joint);
  const piece: Piece | undefined =
    puppet.pieces?.[chosen ?? ""] ?? Object.values(puppet.pieces ?? {}).find((p) => p.joint === joint);
  if (!piece) return <p className="hint mb-0">Select a piece to choose its drawing here.</p>;
  const of = (dial.stops ?? []).find((s) => s.at === view.of);
  const values: Record<string, number[]> = { ...of?.values, ...view.values };
  const number = values[`${piece.id}.show`]?.[0] ?? -1;
  return (
    <div className="fields mt-1">
      {piece.drawings.length > 1 && (
        <>
          <label htmlFor="view-drawing">Shows</label>
          <Form.Select
            id="view-drawing"
            size="sm"
            aria-label={`Drawing of ${piece.name} in this view`}
            value={number}
            onChange={(e) => keep({ [`${piece.id}.show`]: [Number(e.target.value)] })}
          >
            <option value={-1}>as in the first view</option>
            {piece.drawings.map((d) => (
              <option key={d.id} value={d.number ?? 0}>
                {d.name}
              </option>
            ))}
          </Form.Select>
        </>
      )}
      <SwitchRow
        id="view-seen"
        label="Seen"
        text={`${piece.name} is seen here`}
        checked={(values[`${piece.id}.opacity`]?.[0] ?? 100) > 0}
        onChange={(on) => keep({ [`${piece.id}.opacity`]: [on ? 100 : 0] })}
      />
      <NumberRow
        id="view-order"
        label="In front by"
        value={values[`${piece.id}.order`]?.[0] ?? 0}
        unit="places"
        digits={1}
        min={-500}
        max={500}
        onCommit={(n) => keep({ [`${piece.id}.order`]: [n] })}
      />
    </div>
  );
}

/** The puppet at rest in each of its views, asked for one after the other: of several questions only the newest counts. */
function useViews(puppet: Puppet, dial: Dial): Record<number, Pose> {
  const [poses, setPoses] = useState<Record<number, Pose>>({});
  const items = useWorkshop((w) => w.plan?.drawn.items);
  useEffect(() => {
    let live = true;
    const ask = async () => {
      for (const { at } of dial.stops ?? [])
        for (let tries = 0; live && tries < 20; tries++) {
          const found = await tryRest({ [`${dial.id}.dial`]: [at] });
          if (found) {
            await (await painter()).prepare(found.drawn.items);
            if (live) setPoses((before) => ({ ...before, [at]: found }));
            break;
          }
          // A hand was quicker.
          await new Promise((done) => setTimeout(done, 150));
        }
    };
    void ask();
    return () => {
      live = false;
    };
  }, [puppet, dial, items]);
  return poses;
}

function ViewThumb({ pose }: { pose: Pose | undefined }) {
  return (
    <Painted
      width={W}
      height={H}
      watch={[pose]}
      paint={(p) => {
        const frame = pose && { ...pose.drawn, at: 0 };
        const box = frame && boxOf(frame);
        if (!frame || !box) return null;
        const scale = Math.min((W - 4) / (box[2] - box[0]), (H - 4) / (box[3] - box[1]));
        return p.pixels(W, H, (c) => {
          c.translate(W / 2, H / 2);
          c.scale(scale, scale);
          c.translate(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2);
          p.draw(c, frame);
        });
      }}
    />
  );
}
