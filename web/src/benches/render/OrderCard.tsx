/** What is to be rendered, and how. */
import { useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { orderRender } from "../../wire/http";
import type { Production, RenderOrder } from "../../wire/types";
import { rateName, RATES } from "../../parts/rates";
import { PanelHead } from "../../ui/bits";
import { NumberField, SwitchRow } from "../../ui/fields";
import { allRight } from "../../ui/forms";
import { Menu } from "../../ui/Menu";
import { shotsOf, tell, useProduction, useWorkshop, awaitRender } from "../../session";
import { forgetPreset, keepPreset, ownPresets, PLAIN, PRESETS, type Wishes } from "./presets";
import { FORMATS } from "../../wire/facts.gen";
import type { What } from "./what";
import { Select } from "../../ui/Select";
import { HeldNote } from "../../parts/HeldNote";
import { useHeld } from "../../parts/overview";

const SIZES = [
  ["Draft", 0.5],
  ["Full", 1],
  ["One and a half", 1.5],
  ["Double", 2],
] as const;

const BLURS = [
  [1, "none"],
  [4, "4 pictures a frame"],
  [8, "8 pictures a frame"],
  [16, "16 pictures a frame"],
] as const;

/** Pictures can be taken between frames too. */
const OTHER_RATES = [...RATES, [48, 1], [50, 1], [60, 1]] as const;

/** Wishes by name: those that come with the program, and the user's own. */
function PresetMenu({ wishes, choose }: { wishes: Wishes; choose: (wishes: Wishes) => void }) {
  const [naming, setNaming] = useState<string | null>(null);
  const [own, setOwn] = useState(ownPresets);
  const same = JSON.stringify(wishes);
  const entry = (p: { name: string; wishes: Wishes }) => ({
    key: p.name,
    text: p.name,
    chosen: JSON.stringify(p.wishes) === same,
    run: () => choose(p.wishes),
  });
  if (naming !== null)
    return (
      <form
        className="d-flex gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          if (naming.trim()) keepPreset(naming.trim(), wishes);
          setOwn(ownPresets());
          setNaming(null);
        }}
      >
        <Form.Control
          size="sm"
          autoFocus
          aria-label="Name of the preset"
          placeholder="Name"
          maxLength={60}
          value={naming}
          onChange={(e) => setNaming(e.target.value)}
          onKeyDown={(e) => e.key === "Escape" && setNaming(null)}
        />
        <Button size="sm" type="submit">
          Keep
        </Button>
      </form>
    );
  return (
    <Menu
      label="Presets"
      align="end"
      entries={[
        ...PRESETS.map(entry),
        own.length > 0 && "line",
        ...own.map(entry),
        "line",
        { text: "Keep these settings as a preset…", run: () => setNaming("") },
        ...own.map((p) => ({
          key: `forget ${p.name}`,
          text: `Forget “${p.name}”`,
          run: () => {
            forgetPreset(p.name);
            setOwn(ownPresets());
          },
        })),
      ]}
    >
      Presets
    </Menu>
  );
}

/** How wide a film is wished, in pixels. */
function pixelsOf({ width }: Wishes, { width: stage }: Production): number {
  return width === null ? stage : width < 10 ? Math.round(stage * width) : width;
}

export function OrderCard({
  things,
  current,
  choose,
  ordered,
}: {
  things: What[];
  current: What;
  choose: (key: string) => void;
  ordered: (id: string) => void;
}) {
  const production = useProduction()!;
  const [wishes, setWishes] = useState<Wishes>(PLAIN);
  const [range, setRange] = useState<[number, number] | null>(null);
  const { format, clear, sound, blur, seenAs } = wishes;
  const wish = (given: Partial<Wishes>) => setWishes((before) => ({ ...before, ...given }));
  const wide = pixelsOf(wishes, production);
  const high = Math.round((wide * production.height) / production.width);
  const [first, last] = range ?? [current.first, current.last];
  const own = production.rate?.numerator / production.rate?.denominator;
  const rate = wishes.rate ? wishes.rate[0] / wishes.rate[1] : own;
  const seconds = (last - first + 1) / own;
  const kind = FORMATS.find((f) => f.id === format)!;
  const card = useRef<HTMLDivElement>(null);
  const documents = useWorkshop((w) => w.documents);
  const drawn = shotsOf({ documents }).filter((s) => !current.order.motion && s.id === (current.order.shot ?? s.id));
  const held = useHeld(drawn);
  const start = () => {
    if (!allRight(card.current!)) return;
    const order: RenderOrder = {
      ...current.order,
      format,
      // All of it, however long that is by now, unless a part was asked for.
      ...(range ? { first, last } : {}),
      width: wide,
      clear: clear && kind.clear,
      sound,
      blur,
      rate: wishes.rate && { numerator: wishes.rate[0], denominator: wishes.rate[1] },
      seen_as: current.order.motion ? null : seenAs,
    };
    orderRender(production.id, order).then((made) => {
      ordered(made.id);
      awaitRender(made);
    }, tell);
  };
  return (
    <div ref={card} className="card-sheet">
      <PanelHead title="Make a film">
        <PresetMenu wishes={wishes} choose={setWishes} />
      </PanelHead>
      <div className="p-3 fields">
        <WhatField things={things} current={current} choose={choose} />
        <label htmlFor="r-format">As</label>
        <Select
          id="r-format"
          size="sm"
          value={format}
          onChange={(e) => wish({ format: e.target.value as Wishes["format"] })}
        >
          {FORMATS.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </Select>
        <label htmlFor="r-first">From frame</label>
        <NumberField
          id="r-first"
          of="RenderOrder.first"
          value={first}
          max={last}
          onCommit={(v) => setRange([v, last])}
        />
        <label htmlFor="r-last">To frame</label>
        <NumberField
          id="r-last"
          of="RenderOrder.last"
          value={last}
          min={first}
          max={current.length}
          onCommit={(v) => setRange([first, v])}
        />
        {kind.form !== "sound" && (
          <PictureFields production={production} wishes={wishes} wish={wish} passes={!current.order.motion} />
        )}
        {kind.heard && kind.form !== "sound" && current.heard && (
          <SwitchRow
            id="r-sound"
            label="Sound"
            text="what is heard"
            checked={sound}
            onChange={(on) => wish({ sound: on })}
          />
        )}
        {kind.clear && (
          <>
            <label htmlFor="r-clear">Clear</label>
            <Form.Check
              id="r-clear"
              type="switch"
              label="no paper, no backdrop"
              checked={clear}
              onChange={(e) => wish({ clear: e.target.checked })}
            />
          </>
        )}
      </div>
      <div className="px-3 pb-3">
        {!seenAs && <HeldNote shots={held} some={!current.order.shot} />}
        <p className="hint mt-0">
          {wishes.rate ? `${last - first + 1} frames, as pictures at` : `${last - first + 1} frames at`}{" "}
          {Number(rate.toFixed(3))} a second: {seconds.toFixed(2)} s{kind.form !== "sound" && `, ${wide} × ${high} px`}.
        </p>
        <Button className="w-100" onClick={start}>
          <i className="bi bi-film me-2" aria-hidden="true" />
          Render
        </Button>
      </div>
    </div>
  );
}

/** What is rendered: the film, a shot or a motion. */
function WhatField({ things, current, choose }: { things: What[]; current: What; choose: (key: string) => void }) {
  const groups = ["", "Shots", "Motions"] as const;
  const option = (w: What) => (
    <option key={w.key} value={w.key}>
      {w.name}
    </option>
  );
  return (
    <>
      <label htmlFor="r-what">Of</label>
      <Select id="r-what" size="sm" value={current.key} onChange={(e) => choose(e.target.value)}>
        {groups.map((group) => {
          const own = things.filter((w) => w.group === group);
          if (!own.length) return null;
          return group ? (
            <optgroup key={group} label={group}>
              {own.map(option)}
            </optgroup>
          ) : (
            own.map(option)
          );
        })}
      </Select>
    </>
  );
}

/** How large the pictures are, how many there are a second, and what of the shots is in them. */
function PictureFields({
  production,
  wishes,
  wish,
  passes,
}: {
  production: Production;
  wishes: Wishes;
  wish: (given: Partial<Wishes>) => void;
  passes: boolean;
}) {
  const { blur, seenAs } = wishes;
  const wide = pixelsOf(wishes, production);
  const own = production.rate?.numerator / production.rate?.denominator;
  return (
    <>
      <label htmlFor="r-size">Size</label>
      <Select
        id="r-size"
        size="sm"
        value={SIZES.find(([, k]) => Math.round(production.width * k) === wide)?.[0] ?? ""}
        onChange={(e) => wish({ width: SIZES.find(([n]) => n === e.target.value)![1] })}
      >
        {!SIZES.some(([, k]) => Math.round(production.width * k) === wide) && <option value="">Own size</option>}
        {SIZES.map(([name, k]) => (
          <option key={name} value={name}>
            {name}: {Math.round(production.width * k)} × {Math.round(production.height * k)}
          </option>
        ))}
      </Select>
      <label htmlFor="r-width">Width</label>
      <NumberField id="r-width" of="RenderOrder.width" value={wide} unit="px" onCommit={(v) => wish({ width: v })} />
      <label htmlFor="r-rate">Rate</label>
      <Select
        id="r-rate"
        size="sm"
        value={wishes.rate?.join("/") ?? ""}
        onChange={(e) =>
          wish({ rate: e.target.value ? (e.target.value.split("/").map(Number) as [number, number]) : null })
        }
      >
        <option value="">as it is: {Number(own.toFixed(3))} frames a second</option>
        {OTHER_RATES.map(([n, d]) => (
          <option key={`${n}/${d}`} value={`${n}/${d}`}>
            {rateName(n, d)}
          </option>
        ))}
      </Select>
      <label htmlFor="r-blur">Motion blur</label>
      <Select id="r-blur" size="sm" value={blur} onChange={(e) => wish({ blur: Number(e.target.value) })}>
        {BLURS.map(([n, name]) => (
          <option key={n} value={n}>
            {name}
          </option>
        ))}
      </Select>
      {passes && (
        <>
          <label htmlFor="r-pass">Pass</label>
          <Select
            id="r-pass"
            size="sm"
            value={seenAs ?? ""}
            onChange={(e) => wish({ seenAs: (e.target.value || null) as Wishes["seenAs"] })}
          >
            <option value="">each shot&apos;s own</option>
            <option value="blocking">Blocking</option>
            <option value="breakdown">Breakdown</option>
            <option value="final">Final</option>
          </Select>
        </>
      )}
    </>
  );
}
