/** Where something can be had to use it again: the shelf of rigs, this production, and all others. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { tell, useProduction, useWorkshop } from "../../session";
import { Asked } from "../../ui/Asked";
import { productions, puppetsOf, removeRig, rigs } from "../../wire/http";
import type { PuppetGlance, RigView } from "../../wire/types";
import { several } from "../../ui/text";
import type { Chosen } from "./fitting";

interface Props {
  chosen: Chosen | null;
  choose: (chosen: Chosen | null) => void;
  /** The puppet that is none of them: that it is to be put on. */
  but: string | null;
}

export function Sources({ chosen, choose, but }: Props) {
  const here = useWorkshop((w) => w.id);
  const own = useProduction()?.name ?? "";
  const shelf = useQuery({ queryKey: ["rigs"], queryFn: rigs, staleTime: 0 });
  const all = useQuery({ queryKey: ["productions"], queryFn: productions, staleTime: 0 });
  const others = all.data?.filter((p) => p.id !== here) ?? [];
  const cache = useQueryClient();
  const [removing, setRemoving] = useState<RigView | null>(null);
  return (
    <nav className="sources" aria-label="Where to take it from">
      <h3 className="h6">On the shelf</h3>
      {shelf.data?.length === 0 && (
        <p className="hint">Nothing yet. A rig is put here with “Put this rig on the shelf”, on the Rig bench.</p>
      )}
      <ul>
        {shelf.data?.map((r) => (
          <li key={r.id}>
            <Card
              it={{ key: r.id, source: { rig: r.id }, glance: r.rig, where: "on the shelf" }}
              chosen={chosen}
              choose={choose}
            />
            <button
              type="button"
              className="icon-btn"
              aria-label={`Take ${r.rig.name} off the shelf`}
              title="Take it off the shelf"
              onClick={() => setRemoving(r)}
            >
              <i className="bi bi-trash" aria-hidden="true" />
            </button>
          </li>
        ))}
      </ul>
      <h3 className="h6">In this production</h3>
      {here && <Puppets production={here} where={own} chosen={chosen} choose={choose} but={but} />}
      {others.length > 0 && <h3 className="h6">In other productions</h3>}
      {others.map((p) => (
        <Other key={p.id} id={p.id} name={p.name} chosen={chosen} choose={choose} />
      ))}
      {removing && (
        <Asked
          title={`Take “${removing.rig.name}” off the shelf?`}
          keep="Keep it"
          go="Take it off"
          close={() => setRemoving(null)}
          run={() =>
            void removeRig(removing.id).then(() => {
              if (chosen?.key === removing.id) choose(null);
              return cache.invalidateQueries({ queryKey: ["rigs"] });
            }, tell)
          }
        >
          What was made with it stays as it is.
        </Asked>
      )}
    </nav>
  );
}

function Other({ id, name, chosen, choose }: { id: string; name: string } & Omit<Props, "but">) {
  const [open, setOpen] = useState(false);
  return (
    <div>
      <button type="button" className="fold-head" aria-expanded={open} onClick={() => setOpen(!open)}>
        <i className={`bi bi-chevron-${open ? "down" : "right"}`} aria-hidden="true" />
        <span className="flex-grow-1 text-start">{name}</span>
      </button>
      {open && <Puppets production={id} where={name} chosen={chosen} choose={choose} but={null} />}
    </div>
  );
}

interface PuppetsProps extends Props {
  production: string;
  where: string;
}

function Puppets({ production, where, chosen, choose, but }: PuppetsProps) {
  const { data } = useQuery({
    queryKey: ["puppets", production],
    queryFn: () => puppetsOf(production),
    staleTime: 0,
  });
  const shown = data?.filter((p) => p.puppet !== but);
  if (shown?.length === 0) return <p className="hint">No other puppet with pieces.</p>;
  return (
    <ul>
      {shown?.map((p) => (
        <li key={p.puppet}>
          <Card
            it={{
              key: `${production}/${p.puppet}`,
              source: { production, puppet: p.puppet },
              glance: p,
              where: `in ${where}`,
            }}
            chosen={chosen}
            choose={choose}
          />
        </li>
      ))}
    </ul>
  );
}

function Card({ it, chosen, choose }: { it: Chosen } & Omit<Props, "but">) {
  return (
    <button
      type="button"
      className="source card-sheet"
      aria-pressed={chosen?.key === it.key}
      onClick={() => choose(it)}
    >
      <span className="seen">
        <img src={it.glance.picture} alt="" loading="lazy" />
      </span>
      <span className="said">
        <b>{it.glance.name}</b>
        <span className="faint small">{has(it.glance)}</span>
      </span>
    </button>
  );
}

/** What a puppet has, in few words. */
export const has = (glance: PuppetGlance): string =>
  [
    several(glance.joints, "joint"),
    glance.motions.length > 0 && several(glance.motions.length, "motion"),
    glance.mouths && "mouths",
  ]
    .filter(Boolean)
    .join(", ");
