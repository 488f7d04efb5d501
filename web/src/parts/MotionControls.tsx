/** What can be keyed beside joints: dials, which drawing shows, and how far limbs reach. */
import { useShallow } from "zustand/react/shallow";
import type { ChannelKind, Dial, Motion, Puppet } from "../wire/types";
import { get, putBack, submit, tryPose, useWorkshop } from "../session";
import { trier } from "../stage/tool";
import { NumberField, Slider } from "../ui/fields";
import { rangeOf } from "./dials";
import { Fold } from "../ui/Fold";
import { Menu } from "../ui/Menu";
import { Row, Rows } from "../ui/Rows";
import { DrawingThumb } from "./PieceSheet";

interface Props {
  puppet: Puppet;
  motion: Motion;
  frame: number;
  valueAt: (channel: string, frame: number) => number[] | null;
  key_: (values: Record<string, number[]>, frame: number) => Promise<boolean>;
}

const slider = trier((tried) => tryPose(get().frame, tried));

export function MotionControls({ puppet, motion, frame, valueAt, key_ }: Props) {
  const { tried, joint, pieces } = useWorkshop(
    useShallow((w) => ({ tried: w.pose?.tried, joint: w.joint, pieces: w.pieces, spacing: w.spacing })),
  );
  if (frame < 0) return null;
  const value = (id: string, kind: ChannelKind, neutral: number) =>
    (tried?.[`${id}.${kind}`] ?? valueAt(`${id}.${kind}`, frame) ?? [neutral])[0]!;
  const dot = (id: string, kind: ChannelKind) =>
    motion.channels?.[`${id}.${kind}`]?.keys?.[String(frame)] ? (
      <span className="key-dot d-inline-block ms-1" title="Keyed here" />
    ) : null;
  const dials = Object.values(puppet.dials ?? {});
  const chains = Object.values(puppet.chains ?? {}).filter(
    (c) => !joint || joint === c.handle || c.joints.includes(joint),
  );
  const piece = pieces.map((id) => puppet.pieces?.[id]).find((p) => p && p.drawings.length > 1);
  const seen = pieces.map((id) => puppet.pieces?.[id]).find((p) => p);
  const others = [...(puppet.order ?? [])]
    .reverse()
    .map((id) => puppet.pieces![id]!)
    .filter((p) => !pieces.includes(p.id));
  const order = (how: { front?: boolean; back?: boolean; of?: string }) =>
    void submit({ do: "order-at", motion: motion.id, frame, pieces, ...how });
  // A motion that is made for one view is seen from there, where nothing else is keyed.
  const restOf = (d: Dial) => (d.turns ? (motion.seen ?? 0) : d.rest);
  const slide = (channel: string, v: number) => {
    slider(channel, [v]);
  };
  const shows = piece ? value(piece.id, "show", -1) : -1;
  const atRest = piece?.drawings.find((d) => d.id === piece.shows) ?? piece?.drawings[0];
  return (
    <>
      {piece && (
        <Fold title="Drawing" note={piece.name}>
          <Rows
            kind="cards"
            label={`Drawing of ${piece.name} at this frame`}
            className="drawing-grid"
            ids={piece.drawings.map((d) => d.id)}
            chosen={[(shows < 0 ? atRest : piece.drawings.find((d) => d.number === shows))?.id ?? ""]}
            choose={(id) => {
              const drawing = piece.drawings.find((d) => d.id === id)?.number ?? 0;
              void submit({ do: "show-at", motion: motion.id, frame, piece: piece.id, drawing });
            }}
          >
            {piece.drawings.map((d) => {
              const on = shows < 0 ? d.id === atRest?.id : d.number === shows;
              return (
                <Row key={d.id} id={d.id} chosen={on} title={`Show ${d.name} from this frame on`}>
                  <DrawingThumb drawing={d} width={64} height={46} />
                  <span className="name">
                    {d.name}
                    {on && dot(piece.id, "show")}
                  </span>
                </Row>
              );
            })}
          </Rows>
        </Fold>
      )}
      {seen && (
        <Fold title="In front" note={seen.name} open={false}>
          <div className="fields">
            <label htmlFor="key-opacity">Opacity{dot(seen.id, "opacity")}</label>
            <NumberField
              always
              id="key-opacity"
              of="opacity.typed"
              value={value(seen.id, "opacity", 100)}
              unit="%"
              onCommit={(v) => void key_({ [`${seen.id}.opacity`]: [v] }, frame)}
            />
            <span className="faint">Lies{dot(seen.id, "order")}</span>
            <Menu
              label={`Where ${seen.name} lies from this frame on`}
              entries={[
                { text: "In front of everything", run: () => order({ front: true }) },
                { text: "Behind everything", run: () => order({ front: false }) },
                { text: "As at rest", run: () => order({ back: true }) },
                "line",
                ...others.map((p) => ({ key: p.id, text: `In front of ${p.name}`, run: () => order({ of: p.id }) })),
              ]}
            >
              {value(seen.id, "order", 0) === 0
                ? "as at rest"
                : value(seen.id, "order", 0) > 0
                  ? "farther to the front"
                  : "farther back"}
            </Menu>
          </div>
        </Fold>
      )}
      {dials.length > 0 && (
        <Fold title="Dials">
          {dials.map((d) => (
            <div key={d.id} className={d.turns ? "dial turns" : "dial"}>
              <span className="name">
                {d.name}
                {dot(d.id, "dial")}
              </span>
              <Slider
                label={`${d.name} at this frame`}
                {...rangeOf(d)}
                value={value(d.id, "dial", restOf(d))}
                onSlide={(v) => slide(`${d.id}.dial`, v)}
                onCommit={(v) => void key_({ [`${d.id}.dial`]: [v] }, frame)}
                onCancel={() => putBack()}
              />
              <NumberField
                always
                id={`turn-${d.id}`}
                label={d.turns ? `${d.name}, in degrees` : `${d.name}: number`}
                value={value(d.id, "dial", restOf(d))}
                {...(d.turns ? { unit: "°", digits: 0 } : { digits: 2, min: d.low, max: d.high })}
                onCommit={(v) => void key_({ [`${d.id}.dial`]: [v] }, frame)}
              />
            </div>
          ))}
        </Fold>
      )}
      {chains.length > 0 && (
        <Fold title="Reach">
          <div className="fields">
            {chains.map((c) => (
              <ChainField
                key={c.id}
                name={c.name}
                id={c.id}
                value={value(c.id, "reach", 100)}
                mark={dot(c.id, "reach")}
                commit={(v) => void key_({ [`${c.id}.reach`]: [v] }, frame)}
              />
            ))}
          </div>
          <p className="hint">0 %: only turned. 100 %: the end meets its handle.</p>
        </Fold>
      )}
    </>
  );
}

function ChainField({
  name,
  id,
  value,
  mark,
  commit,
}: {
  name: string;
  id: string;
  value: number;
  mark: React.ReactNode;
  commit: (v: number) => void;
}) {
  return (
    <>
      <label htmlFor={`reach-${id}`} className="text-truncate of-limb" title={name}>
        {name}
        {mark}
      </label>
      <NumberField always id={`reach-${id}`} of="reach.typed" value={value} unit="%" onCommit={commit} />
    </>
  );
}
