/** Limbs that reach: making one, and how it reaches. */
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import type { Chain, Joint, Puppet } from "../wire/types";
import { freshId, submit, useWorkshop, pickOut } from "../session";
import { IconButton } from "../ui/bits";
import { NumberField } from "../ui/fields";
import { Fold } from "../ui/Fold";
import { Select } from "../ui/Select";

export function ReachCard({ puppet, joint }: { puppet: Puppet; joint: Joint | undefined }) {
  const chains = Object.values(puppet.chains ?? {});
  const mine = joint ? chains.filter((c) => c.joints.includes(joint.id) || c.handle === joint.id) : chains;
  return (
    <Fold
      title="Reach"
      note={chains.length ? `${chains.length} ${chains.length === 1 ? "limb" : "limbs"}` : "none"}
      open
    >
      {!joint && chains.length === 0 && (
        <p className="hint m-0">Select a hand or foot: it can be made to reach, and the limb follows.</p>
      )}
      {mine.map((c) => (
        <ChainSettings key={c.id} puppet={puppet} chain={c} folded={!joint} />
      ))}
      {joint && !joint.handle && !mine.some((c) => c.joints.includes(joint.id)) && (
        <NewReach key={joint.id} puppet={puppet} end={joint} />
      )}
    </Fold>
  );
}

function above(puppet: Puppet, joint: Joint): Joint[] {
  const line: Joint[] = [];
  for (let at = joint.parent; at && puppet.joints?.[at] && line.length < 20; at = puppet.joints[at]!.parent)
    line.push(puppet.joints[at]!);
  return line;
}

function NewReach({ puppet, end }: { puppet: Puppet; end: Joint }) {
  const line = above(puppet, end);
  const [anchor, setAnchor] = useState<string | null>(null);
  const stands = useWorkshop((w) => w.rig?.puppet === puppet.id && w.rig.standing.includes(end.id));
  const [told, setStays] = useState<boolean | null>(null);
  const stays = told ?? stands;
  const chosen = line.find((j) => j.id === anchor) ?? line[1] ?? line[0];
  if (!chosen) return <p className="hint m-0">{end.name} hangs on no joint, so there is no limb that could reach.</p>;
  const make = () => {
    const [id, handle] = [freshId(), freshId()];
    const name = `${chosen.name} to ${end.name}`.slice(0, 120);
    void submit({
      do: "add-reach",
      puppet: puppet.id,
      id,
      name,
      anchor: chosen.id,
      end: end.id,
      handle,
      world: told,
      follow: told,
    }).then((done) => done && pickOut({ joint: handle, pieces: [] }));
  };
  return (
    <>
      <div className="fields">
        <span className="faint">End</span>
        <span className="text-truncate">{end.name}</span>
        <label htmlFor="reach-anchor">Anchor</label>
        <Select id="reach-anchor" size="sm" value={chosen.id} onChange={(e) => setAnchor(e.target.value)}>
          {line.map((j) => (
            <option key={j.id} value={j.id}>
              {j.name}
            </option>
          ))}
        </Select>
      </div>
      <Form.Check
        id="reach-world"
        className="mt-1"
        label="stays in the world (a foot)"
        checked={stays}
        onChange={(e) => setStays(e.target.checked)}
      />
      <Button size="sm" className="mt-2 w-100" onClick={make}>
        Let it reach
      </Button>
      <p className="hint">
        {chosen === line[0]
          ? `Only one bone lies between ${chosen.name} and ${end.name}: it turns towards the handle and can't bend.`
          : "The anchor stays put; the limb turns so that its end meets the handle."}
      </p>
    </>
  );
}

function ChainSettings({ puppet, chain, folded }: { puppet: Puppet; chain: Chain; folded: boolean }) {
  const put = (given: Partial<Chain>) =>
    void submit({ do: "set-chain", puppet: puppet.id, chain: { id: chain.id, ...given } });
  if (folded)
    return (
      <button type="button" className="row-item" onClick={() => pickOut({ joint: chain.handle, pieces: [] })}>
        <i className="bi bi-diamond rusty" aria-hidden="true" />
        <span className="name">{chain.name}</span>
      </button>
    );
  return (
    <>
      <div className="d-flex align-items-center mb-1">
        <strong className="flex-grow-1 text-truncate small">{chain.name}</strong>
        <IconButton
          quiet
          icon="trash"
          label="Stop this limb reaching"
          onClick={() => void submit({ do: "remove-chain", puppet: puppet.id, chain: chain.id })}
        />
      </div>
      <div className="fields">
        <label htmlFor="chain-bend">Bends</label>
        <Select
          id="chain-bend"
          size="sm"
          value={chain.bend}
          onChange={(e) => put({ bend: e.target.value as Chain["bend"] })}
        >
          <option value="rest">as at rest</option>
          <option value="clockwise">clockwise</option>
          <option value="counter-clockwise">counter-clockwise</option>
        </Select>
        <label htmlFor="chain-soft">Soft end</label>
        <NumberField
          id="chain-soft"
          of="Chain.soft"
          times={100}
          value={chain.soft}
          unit="%"
          onCommit={(v) => put({ soft: v })}
        />
        <label htmlFor="chain-stretch">Stretch</label>
        <NumberField
          id="chain-stretch"
          of="Chain.stretch"
          times={100}
          value={chain.stretch}
          unit="%"
          digits={0}
          onCommit={(v) => put({ stretch: v })}
        />
      </div>
      <Form.Check
        id="chain-follow"
        className="mt-1"
        label="the end turns with the handle"
        checked={chain.follow}
        onChange={(e) => put({ follow: e.target.checked })}
      />
    </>
  );
}
