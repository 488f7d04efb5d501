/** How the selected piece and its joint are in one view: drawing, seen or not, in front of what, and where it turns. */
import { Button } from "react-bootstrap";
import { drawRightWayRound, submit, useWorkshop } from "../../session";
import { NumberRow, SwitchRow } from "../../ui/fields";
import type { Dial, Piece, Puppet, TurnView } from "../../wire/types";
import { Select } from "../../ui/Select";

type View = NonNullable<Dial["stops"]>[number];

interface Props {
  puppet: Puppet;
  view: View;
  whole: TurnView["views"][number];
  base: { puppet: string; dial: string };
  keep: (more: Record<string, number[]>) => void;
  again: () => Promise<void>;
}

export function InThisView({ puppet, view, whole, base, keep, again }: Props) {
  const chosen = useWorkshop((w) => w.pieces[0]);
  const joint = useWorkshop((w) => w.joint);
  const piece: Piece | undefined =
    puppet.pieces?.[chosen ?? ""] ?? Object.values(puppet.pieces ?? {}).find((p) => p.joint === joint);
  if (!piece) return <p className="hint mb-0">Select a piece to choose its drawing here.</p>;
  const values = whole.values;
  return (
    <>
      <div className="fields mt-1">
        {view.at > 0 && piece.drawings.length > 1 && (
          <>
            <label htmlFor="view-drawing">Shows</label>
            <Select
              id="view-drawing"
              size="sm"
              aria-label={`Drawing of ${piece.name} in this view`}
              value={values[`${piece.id}.show`]?.[0] ?? -1}
              onChange={(e) => keep({ [`${piece.id}.show`]: [Number(e.target.value)] })}
            >
              <option value={-1}>as in the first view</option>
              {piece.drawings.map((d) => (
                <option key={d.id} value={d.number}>
                  {d.name}
                </option>
              ))}
            </Select>
          </>
        )}
        <SwitchRow
          id="view-seen"
          label="Seen"
          text={`${piece.name} is seen here`}
          checked={(values[`${piece.id}.opacity`]?.[0] ?? 100) > 0}
          onChange={(on) => keep({ [`${piece.id}.opacity`]: [on ? 100 : 0] })}
        />
        {view.at > 0 && (
          <NumberRow
            id="view-order"
            label="In front by"
            of="order.typed"
            value={values[`${piece.id}.order`]?.[0] ?? 0}
            unit="places"
            digits={1}
            onCommit={(n) => keep({ [`${piece.id}.order`]: [n] })}
          />
        )}
        {view.at > 0 && <TurnsAt joint={joint ?? piece.joint} whole={whole} base={base} at={view.at} again={again} />}
        <SwitchRow
          id="view-one-way"
          label="Mirror"
          text={`${piece.name} must not be mirrored`}
          checked={piece.one_way}
          onChange={(on) => void submit({ do: "set-pieces", puppet: puppet.id, pieces: [piece.id], one_way: on })}
        />
      </div>
      {view.flips && (
        <Button
          size="sm"
          variant="outline-primary"
          className="w-100 mt-1"
          title="It gets a drawing of its own here: the mirror image of what is seen, so that it reads as it should"
          onClick={() =>
            void drawRightWayRound({ ...base, at: view.at, piece: piece.id }).then((done) => done && void again())
          }
        >
          Draw {piece.name} the right way round
        </Button>
      )}
    </>
  );
}

interface TurnsAtProps {
  joint: string;
  whole: TurnView["views"][number];
  base: { puppet: string; dial: string };
  at: number;
  again: () => Promise<void>;
}

/** Where the joint lies in this view, in stage units; its picture and what hangs on it stay. */
function TurnsAt({ joint, whole, base, at, again }: TurnsAtProps) {
  const place = whole.places[joint];
  if (!place) return null;
  const put = (given: { x?: number; y?: number }) =>
    void submit({ do: "place-in-view", ...base, at, joint, ...given }).then((done) => done && void again());
  return (
    <>
      <NumberRow id="view-x" label="Turns at" value={place[0]!} unit="u" onCommit={(x) => put({ x })} />
      <NumberRow id="view-y" label="and down" value={place[1]!} unit="u" onCommit={(y) => put({ y })} />
    </>
  );
}
