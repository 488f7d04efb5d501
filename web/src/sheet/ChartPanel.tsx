/**
 * The timing chart: the ladder of in-betweens from the selected keys (or poses) to the next, each tick where it
 * really falls and draggable; and the eases it can be set to by name, by percent or by family.
 */
import { useState } from "react";
import { keep, kept, submit, useWorkshop, type KeyRef } from "../session";
import { Choices } from "../ui/Choices";
import { NumberField } from "../ui/fields";
import { Fold } from "../ui/Fold";
import { Menu } from "../ui/Menu";
import { JUMPS } from "./threads";
import { CHOICES } from "../wire/facts.gen";
import type { Ease, Motion } from "../wire/types";
import { EASES } from "./eases";
import { Ladder } from "./Ladder";
import { Select } from "../ui/Select";

type Named = NonNullable<Ease>;
type FamilyEase = Extract<Named, { kind: "family" }>;

const FAMILIES = CHOICES["Family.family"];
/** The family that is begun with where only is told where it is slow: the plainest, as the core has them in order. */
const PLAINEST: FamilyEase = { kind: "family", family: FAMILIES[0], slow: "both", amount: null };
const AMOUNTS: Partial<Record<FamilyEase["family"], { label: string; start: number; digits: number }>> = {
  back: { label: "How far past", start: 1.70158, digits: 3 },
  elastic: { label: "One swing", start: 0.3, digits: 2 },
};
const FAVOURITES = "favourite-eases";

/** The keys that the chart is for: those selected on the sheet, or all of the selected poses. */
export function charted(motion: Motion, keys: readonly KeyRef[], poses: readonly number[]): KeyRef[] {
  if (keys.length || !poses.length) return [...keys];
  return Object.entries(motion.channels ?? {}).flatMap(([channel, c]) =>
    poses.filter((f) => c.keys?.[String(f)]).map((frame) => ({ channel, frame })),
  );
}

const written = (ease: Ease | undefined): string => JSON.stringify(ease ?? { kind: "even" });

/** What an ease is called. */
function named(ease: Named): string {
  switch (ease.kind) {
    case "slow":
      return `slow out ${ease.out} %, in ${ease.into} %`;
    case "family":
      return `${ease.family}, slow ${ease.slow}`;
    case "chart":
      return `chart of ${ease.ticks.length} ticks`;
    case "bezier":
      return "curve";
    default:
      return ease.kind;
  }
}

export function ChartPanel({ motion }: { motion: Motion }) {
  const keys = useWorkshop((w) => w.keys);
  const poses = useWorkshop((w) => w.poses);
  const spacing = useWorkshop((w) => w.spacing);
  const copied = useCopied();
  const refs = charted(motion, keys, poses);
  const found = refs.map((k) => motion.channels?.[k.channel]?.keys?.[String(k.frame)]).filter((k) => k !== undefined);
  if (!found.length) return null;
  const alike = new Set(found.map((k) => written(k.ease))).size === 1;
  const ease: Named = (alike ? found[0]!.ease : undefined) ?? { kind: "even" };
  const apply = (next: Named) => void submit({ do: "ease-gaps", motion: motion.id, keys: refs, ease: next });
  const shown = refs.find((k) => spacing[k.channel]?.gaps.some((g) => g[0] === k.frame)) ?? refs[0]!;
  const gap = spacing[shown.channel]?.gaps.find((g) => g[0] === shown.frame);
  const what =
    poses.length && !keys.length
      ? `${poses.length} ${poses.length === 1 ? "pose" : "poses"}`
      : `${refs.length} ${refs.length === 1 ? "key" : "keys"}`;
  return (
    <Fold title="Timing chart" note={what}>
      <p className="small mb-2">
        {alike ? (
          <>
            The way to the next: <b>{named(ease)}</b>
          </>
        ) : (
          <>
            <b>Mixed:</b> these keys go on in different ways. What is set here is set on all.
          </>
        )}
      </p>
      {gap && <Ladder key={`${shown.channel}@${shown.frame}`} gap={gap} refs={refs} of={shown} motion={motion.id} />}
      <Choices
        label="Way to the next"
        choices={EASES}
        chosen={(value) => alike && written(ease) === written(value)}
        choose={apply}
      />
      <Percent ease={ease} apply={apply} />
      <FamilyFields ease={ease} apply={apply} />
      <div className="d-flex gap-1 mt-2">
        <Menu
          label="Copy or paste this ease"
          entries={[
            alike && { text: "Copy this ease", run: () => copied.copy(ease) },
            copied.ease && { text: `Paste ${named(copied.ease)}`, run: () => apply(copied.ease!) },
            alike && { text: "Keep as a favourite", run: () => copied.keep(ease) },
            "line",
            ...copied.kept.map((e, i) => ({ key: `f${i}`, text: named(e), run: () => apply(e) })),
            copied.kept.length > 0 && { text: "Forget the favourites", run: copied.forget },
          ]}
        >
          Favourites
        </Menu>
      </div>
      <Beyond motion={motion} channels={[...new Set(refs.map((k) => k.channel))]} />
    </Fold>
  );
}

function Percent({ ease, apply }: { ease: Named; apply: (ease: Named) => void }) {
  const [out, into] = ease.kind === "slow" ? [ease.out, ease.into] : [0, 0];
  const slow = (o: number, i: number) =>
    apply(o === 0 && i === 0 ? { kind: "even" } : { kind: "slow", out: o, into: i });
  return (
    <div className="fields">
      <span className="faint">Slow out, in</span>
      <div className="pair">
        <NumberField
          id="slow-out"
          label="Slow out"
          of="Slow.out"
          value={out}
          unit="%"
          digits={0}
          onCommit={(v) => slow(v, into)}
        />
        <NumberField
          id="slow-in"
          label="Slow in"
          of="Slow.into"
          value={into}
          unit="%"
          digits={0}
          onCommit={(v) => slow(out, v)}
        />
      </div>
    </div>
  );
}

function FamilyFields({ ease, apply }: { ease: Named; apply: (ease: Named) => void }) {
  const family = ease.kind === "family" ? ease : null;
  const amount = family ? AMOUNTS[family.family] : undefined;
  return (
    <div className="fields mt-2">
      <label htmlFor="ease-family">Family</label>
      <Select
        id="ease-family"
        size="sm"
        value={family?.family ?? ""}
        onChange={(e) =>
          e.target.value &&
          apply({
            kind: "family",
            family: e.target.value as FamilyEase["family"],
            slow: family?.slow ?? "both",
            amount: null,
          })
        }
      >
        <option value="">(none)</option>
        {FAMILIES.map((f) => (
          <option key={f}>{f}</option>
        ))}
      </Select>
      <label htmlFor="ease-slow">Slow</label>
      <Select
        id="ease-slow"
        size="sm"
        value={family?.slow ?? ""}
        onChange={(e) =>
          e.target.value && apply({ ...(family ?? PLAINEST), slow: e.target.value as FamilyEase["slow"] })
        }
      >
        {!family && <option value="">(none)</option>}
        <option value="out">out of the key</option>
        <option value="in">into the next</option>
        <option value="both">out and in</option>
      </Select>
      {family && amount && (
        <>
          <label htmlFor="ease-amount">{amount.label}</label>
          <NumberField
            id="ease-amount"
            of="Family.amount"
            value={family.amount ?? amount.start}
            unit={family.family === "back" ? "×" : "of the gap"}
            digits={amount.digits}
            onCommit={(v) => apply({ ...family, amount: v })}
          />
        </>
      )}
    </div>
  );
}

/** The ease that was copied, and those kept as favourites. */
function useCopied() {
  const [ease, setEase] = useState<Named | null>(null);
  const [favourites, setFavourites] = useState<Named[]>(() => JSON.parse(kept(FAVOURITES) ?? "[]") as Named[]);
  const store = (next: Named[]) => {
    keep(FAVOURITES, JSON.stringify(next));
    setFavourites(next);
  };
  return {
    ease,
    kept: favourites,
    copy: setEase,
    keep: (e: Named) => !favourites.some((k) => written(k) === written(e)) && store([...favourites, e]),
    forget: () => store([]),
  };
}

/** What channels do outside their keys. */
function Beyond({ motion, channels }: { motion: Motion; channels: string[] }) {
  // What is chosen, as a drawing is, can't be added to.
  const chosen = channels.some((c) => JUMPS.has(motion.channels?.[c]?.kind ?? "turn"));
  const held = channels.map((c) => motion.channels?.[c]);
  const outside = new Set(held.map((c) => c?.outside ?? "hold"));
  const before = new Set(held.map((c) => c?.before ?? "same"));
  const put = (after: string, earlier: string) =>
    void submit({
      do: "set-outside",
      motion: motion.id,
      channels,
      outside: after as "hold",
      before: earlier === "same" ? null : (earlier as "hold"),
    });
  const one = (found: Set<string>) => (found.size === 1 ? [...found][0]! : "");
  const rules = (
    <>
      <option value="hold">hold</option>
      <option value="repeat">repeat</option>
      {!chosen && <option value="repeat-and-add">repeat and add</option>}
      <option value="back-and-forth">back and forth</option>
    </>
  );
  return (
    <div className="fields mt-2">
      <label htmlFor="outside">Beyond the keys</label>
      <Select
        id="outside"
        size="sm"
        disabled={motion.cycle}
        value={one(outside)}
        onChange={(e) => e.target.value && put(e.target.value, one(before) || "same")}
      >
        {outside.size > 1 && <option value="">(several)</option>}
        {rules}
      </Select>
      <label htmlFor="before">Before the keys</label>
      <Select
        id="before"
        size="sm"
        disabled={motion.cycle}
        value={one(before)}
        onChange={(e) => e.target.value && put(one(outside) || "hold", e.target.value)}
      >
        {before.size > 1 && <option value="">(several)</option>}
        <option value="same">the same</option>
        {rules}
      </Select>
      {motion.cycle && <p className="hint">In a cycle the last key leads round to the first.</p>}
    </div>
  );
}
