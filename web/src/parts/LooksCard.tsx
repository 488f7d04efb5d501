/** How a piece looks: what masks it, how faded it is, its colours corrected or linked to swatches. */
import { FILL, WHITE } from "../ui/paints";
import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Correction, Puppet, Swatch } from "../wire/types";
import { freshId, submit, useProduction, useWorkshop } from "../session";
import { IconButton } from "../ui/bits";
import { ColourField } from "./ColourField";
import { NumberField, TextField } from "../ui/fields";
import { Fold } from "../ui/Fold";
import { Select } from "../ui/Select";

const PLAIN: Correction = { brightness: 0, contrast: 0, gamma: 1, tint: WHITE, amount: 0 };

export function MaskCard({ puppet, ids }: { puppet: Puppet; ids: string[] }) {
  const piece = puppet.pieces![ids[0]!]!;
  const masks = piece.masks ?? [];
  const others = (puppet.order ?? []).filter((id) => !ids.includes(id)).reverse();
  const put = (given: Record<string, "inside" | "outside" | null>) =>
    void submit({ do: "set-masks", puppet: puppet.id, pieces: ids, masks: given });
  return (
    <Fold title="Masks" note={masks.length ? `${masks.length}` : "none"} open={masks.length > 0}>
      {masks.map((m) => (
        <div key={m.piece} className="d-flex gap-1 align-items-center mb-1">
          <Select
            size="sm"
            className="in-or-out"
            aria-label="Inside or outside"
            value={m.inside === false ? "outside" : "inside"}
            onChange={(e) => put({ [m.piece]: e.target.value as "inside" })}
          >
            <option value="inside">inside</option>
            <option value="outside">outside</option>
          </Select>
          <Select
            size="sm"
            aria-label="The piece that masks"
            value={m.piece}
            onChange={(e) => put({ [m.piece]: null, [e.target.value]: m.inside === false ? "outside" : "inside" })}
          >
            {others.map((id) => (
              <option key={id} value={id}>
                {puppet.pieces![id]!.name}
              </option>
            ))}
          </Select>
          <IconButton quiet icon="x-lg" label="Take this mask away" onClick={() => put({ [m.piece]: null })} />
        </div>
      ))}
      <Select
        size="sm"
        aria-label="Show only inside of a piece"
        value=""
        disabled={!others.length}
        onChange={(e) => put({ [e.target.value]: "inside" })}
      >
        <option value="">Show only inside of…</option>
        {others.map((id) => (
          <option key={id} value={id}>
            {puppet.pieces![id]!.name}
          </option>
        ))}
      </Select>
    </Fold>
  );
}

export function ColourCard({ puppet, ids }: { puppet: Puppet; ids: string[] }) {
  const piece = puppet.pieces![ids[0]!]!;
  const colour = { ...PLAIN, ...piece.colour };
  const plain = JSON.stringify(colour) === JSON.stringify(PLAIN) && piece.opacity === 1;
  const put = (given: Partial<Correction>) =>
    void submit({ do: "set-look", puppet: puppet.id, pieces: ids, colour: given });
  return (
    <Fold title="Fade and colour" note={plain ? "as drawn" : "changed"} open={!plain}>
      <div className="fields">
        <label htmlFor="look-opacity">Opacity</label>
        <NumberField
          id="look-opacity"
          of="Piece.opacity"
          times={100}
          value={piece.opacity}
          unit="%"
          digits={0}
          onCommit={(v) => void submit({ do: "set-look", puppet: puppet.id, pieces: ids, opacity: v })}
        />
        <label htmlFor="look-brightness">Brightness</label>
        <NumberField
          id="look-brightness"
          of="Correction.brightness"
          value={colour.brightness}
          unit="%"
          onCommit={(brightness) => put({ brightness })}
        />
        <label htmlFor="look-contrast">Contrast</label>
        <NumberField
          id="look-contrast"
          of="Correction.contrast"
          value={colour.contrast}
          unit="%"
          onCommit={(contrast) => put({ contrast })}
        />
        <label htmlFor="look-gamma">Gamma</label>
        <NumberField
          id="look-gamma"
          of="Correction.gamma"
          value={colour.gamma}
          digits={2}
          onCommit={(gamma) => put({ gamma })}
        />
        <span className="faint">Tint</span>
        <ColourField label="Tint colour" value={colour.tint} onCommit={(tint) => put({ tint })} />
        <label htmlFor="look-tint">Tint by</label>
        <NumberField
          id="look-tint"
          of="Correction.amount"
          value={colour.amount}
          unit="%"
          digits={0}
          onCommit={(amount) => put({ amount })}
        />
      </div>
      {!plain && (
        <Button
          size="sm"
          variant="outline-primary"
          className="mt-2"
          onClick={() => void submit({ do: "set-look", puppet: puppet.id, pieces: ids, colour: PLAIN, opacity: 1 })}
        >
          As drawn
        </Button>
      )}
    </Fold>
  );
}

/** Every colour of the pieces' art, each of which can be linked to a swatch, in all of them that have it. */
export function SwatchLinks({ puppet, ids }: { puppet: Puppet; ids: string[] }) {
  const of = useWorkshop((w) => (w.rig?.puppet === puppet.id ? w.rig.colours : undefined));
  const swatches = Object.values(useProduction()?.swatches ?? {});
  const having = (which: string) => ids.filter((id) => of?.[id]?.includes(which));
  const found = [...new Set(ids.flatMap((id) => of?.[id] ?? []))];
  const linkOf = (which: string) => {
    const all = new Set(having(which).map((id) => puppet.pieces?.[id]?.swatches?.[which] ?? ""));
    return all.size === 1 ? [...all][0]! : all.size ? "several" : "";
  };
  const links = Object.fromEntries(found.flatMap((c) => (linkOf(c) ? [[c, linkOf(c)]] : [])));
  // A colour that nearly cannot be seen is a shadow or a shine; a palette is not about those.
  const colours = found.filter((c) => parseInt(c.slice(-2), 16) > 60 || links[c]);
  if (!colours.length) return null;
  return (
    <Fold
      title="Swatches"
      note={Object.keys(links).length ? `${Object.keys(links).length} linked` : "none linked"}
      open={Object.keys(links).length > 0}
    >
      {colours.slice(0, 24).map((which) => {
        const [use, value] = which.split(":") as [string, string];
        return (
          <div key={which} className="d-flex gap-1 align-items-center mb-1">
            <span
              className={`chip ${use}`}
              style={{ "--chip": value } as React.CSSProperties}
              title={`${use} ${value.slice(0, 7)}`}
            />
            <Select
              size="sm"
              aria-label={`${use} ${value.slice(0, 7)} is linked to`}
              value={links[which] ?? ""}
              onChange={(e) =>
                void (e.target.value === "+"
                  ? addLinked(puppet.id, having(which), which, value)
                  : submit({
                      do: "link-swatch",
                      puppet: puppet.id,
                      pieces: having(which),
                      which,
                      swatch: e.target.value || null,
                    }))
              }
            >
              <option value="">as drawn</option>
              {links[which] === "several" && (
                <option value="several" disabled>
                  several swatches
                </option>
              )}
              {swatches.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
              <option value="+">a new swatch of this colour</option>
            </Select>
          </div>
        );
      })}
    </Fold>
  );
}

async function addLinked(puppet: string, pieces: string[], which: string, value: string): Promise<void> {
  const id = freshId();
  const swatch: Swatch = { id, name: value.slice(0, 7), colour: `${value.slice(0, 7)}ff` };
  if (await submit({ do: "set-swatch", swatch }))
    await submit({ do: "link-swatch", puppet, pieces, which, swatch: id });
}

/** The production's palette. */
export function Palette({ picking, pick }: { picking: boolean; pick: () => void }) {
  const swatches = Object.values(useProduction()?.swatches ?? {});
  const [chosen, setChosen] = useState<string | null>(null);
  const swatch = swatches.find((s) => s.id === chosen);
  const change = (given: Partial<Swatch>) =>
    swatch && void submit({ do: "set-swatch", swatch: { id: swatch.id, ...given } });
  return (
    <Fold title="Palette" note={`${swatches.length}`} open={swatches.length > 0}>
      <div className="d-flex flex-wrap gap-1 mb-2">
        {swatches.map((s) => (
          <button
            key={s.id}
            type="button"
            className={`swatch${s.id === chosen ? " chosen" : ""}`}
            style={{ background: s.colour }}
            title={s.name}
            aria-label={s.name}
            aria-pressed={s.id === chosen}
            onClick={() => setChosen(s.id === chosen ? null : s.id)}
          />
        ))}
        <IconButton
          quiet
          icon="plus-lg"
          label="Add a swatch"
          onClick={() => {
            const id = freshId();
            void submit({
              do: "set-swatch",
              swatch: { id, name: `Swatch ${swatches.length + 1}`, colour: FILL },
            });
            setChosen(id);
          }}
        />
        <IconButton
          quiet
          icon="eyedropper"
          label="Pick colours from the stage or the reference"
          pressed={picking}
          onClick={pick}
        />
      </div>
      {swatch ? (
        <div className="d-flex gap-1">
          <ColourField
            key={`colour-${swatch.id}`}
            label={`Colour of ${swatch.name}`}
            value={swatch.colour}
            onCommit={(colour) => change({ colour })}
          />
          <TextField
            key={swatch.id}
            label="Name of the swatch"
            value={swatch.name}
            needed
            onCommit={(name) => change({ name })}
          />
          <IconButton
            quiet
            icon="trash"
            label={`Remove the swatch ${swatch.name}`}
            onClick={() => void submit({ do: "remove-swatch", swatch: swatch.id })}
          />
        </div>
      ) : (
        <p className="hint m-0">A changed swatch recolours every piece linked to it, in every motion.</p>
      )}
    </Fold>
  );
}
