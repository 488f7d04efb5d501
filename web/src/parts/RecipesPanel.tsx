/** The recipes of a motion: what they are, their parameters, done again as these move, and taken off again. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { putBack, submit, submitTried, tryWhole, useWorkshop, pickOut, tryOut } from "../session";
import { ViewPicker } from "./turn/ViewPicker";
import { Newest } from "../stage/tool";
import { NumberField, Slider } from "../ui/fields";
import { Fold } from "../ui/Fold";
import { Menu } from "../ui/Menu";
import type { Command, Motion, Preset, Puppet, Recipe } from "../wire/types";
import { begin, KINDS, GAITS, settingsOf, standsAt, type Setting } from "./recipes";
import { Select } from "../ui/Select";

export function RecipesPanel({ puppet, motion }: { puppet: Puppet; motion: Motion }) {
  const recipes = Object.values(motion.recipes ?? {});
  const open = useWorkshop((w) => w.recipe);
  const setOpen = (recipe: string | null) => pickOut({ recipe });
  return (
    <Fold title="Recipes" note={recipes.length || undefined}>
      {recipes.map((recipe) => (
        <section key={recipe.id} className="recipe">
          <div className="d-flex align-items-center gap-1">
            <button
              type="button"
              className="icon-btn flex-grow-1 justify-content-start"
              aria-expanded={open === recipe.id}
              onClick={() => setOpen(open === recipe.id ? null : recipe.id)}
            >
              <i className={`bi bi-chevron-${open === recipe.id ? "down" : "right"}`} aria-hidden="true" />{" "}
              {recipe.name}
            </button>
            <button
              type="button"
              className="icon-btn"
              title="Take it off again; keys that you changed stay"
              aria-label={`Take off ${recipe.name}`}
              onClick={() => void submit({ do: "remove-recipe", motion: motion.id, recipe: recipe.id })}
            >
              <i className="bi bi-x-lg" aria-hidden="true" />
            </button>
          </div>
          {open === recipe.id && <Settings key={recipe.id} recipe={recipe} motion={motion} puppet={puppet} />}
        </section>
      ))}
      {!recipes.length && (
        <p className="hint mt-0">
          A recipe makes keys by a rule, and makes them anew when you change its parameters. What you changed by hand
          stays.
        </p>
      )}
      <Menu
        label="Add a recipe"
        entries={KINDS.map(({ kind, name, does }) => ({
          key: kind,
          run: () => void begin(kind, motion.id),
          text: (
            <>
              <b>{name}</b> <span className="faint">{does}</span>
            </>
          ),
        }))}
      >
        <i className="bi bi-plus-lg" aria-hidden="true" /> Add a recipe
      </Menu>
    </Fold>
  );
}

/** Every frame of the motion as it would be; it is seen on the stage, playing or not. */
async function look(command: Command): Promise<void> {
  const trial = await tryWhole(command);
  if (trial) tryOut({ trial });
}

function Settings({ recipe, motion, puppet }: { recipe: Recipe; motion: Motion; puppet: Puppet }) {
  const command = (given: Record<string, unknown>, more: { preset?: Preset; afresh?: boolean } = {}): Command => ({
    do: "change-recipe",
    motion: motion.id,
    recipe: recipe.id,
    given,
    ...more,
  });
  const [tried] = useState(() => new Newest());
  const put = (key: string, value: unknown) => void submitTried(command({ [key]: value }));
  return (
    <div className="ps-2">
      {recipe.kind === "gait" && (
        <div className="fields mb-2">
          <label htmlFor="gait-preset">Preset</label>
          <Select
            id="gait-preset"
            size="sm"
            value=""
            onChange={(e) => e.target.value && void submit(command({}, { preset: e.target.value as Preset }))}
          >
            <option value="">(choose one)</option>
            {GAITS.map((p) => (
              <option key={p}>{p}</option>
            ))}
          </Select>
          <ViewPicker
            id="gait-seen"
            label="Planned in"
            puppet={puppet}
            value={recipe.seen}
            untold="the view for it"
            onPick={(seen) => put("seen", seen)}
          />
        </div>
      )}
      {settingsOf(recipe).map((s) =>
        s.choices.length ? (
          <div key={s.key} className="fields mb-2">
            <label htmlFor={`${recipe.id}-${s.key}`}>{s.label}</label>
            <Select
              id={`${recipe.id}-${s.key}`}
              size="sm"
              value={String(standsAt(recipe, s))}
              onChange={(e) => put(s.key, e.target.value)}
            >
              {s.choices.map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </Select>
          </div>
        ) : (
          <SettingRow
            key={s.key}
            id={`${recipe.id}-${s.key}`}
            setting={s}
            value={Number(standsAt(recipe, s) ?? 0)}
            slide={(v) => tried.ask(() => look(command({ [s.key]: sent(s, v) })))}
            put={(v) => put(s.key, sent(s, v))}
          />
        ),
      )}
      {(recipe.said ?? []).map((line) => (
        <p key={line} className="hint mb-1">
          {line}
        </p>
      ))}
      <div className="d-flex gap-1 mt-1">
        {recipe.kind === "capture" && (
          <Button
            size="sm"
            variant="outline-primary"
            title="The motion is a cycle that ends with the recording, and its end is led back to where it began"
            onClick={() => void submit({ do: "loop-capture", motion: motion.id, recipe: recipe.id })}
          >
            Make a loop of it
          </Button>
        )}
        <Button
          size="sm"
          variant="outline-primary"
          title="Write its keys again, also those that were taken away"
          onClick={() => void submit(command({}, { afresh: true }))}
        >
          Redo
        </Button>
      </div>
    </div>
  );
}

const sent = (s: Setting, value: number): number | null => (value === s.untold ? null : value);

interface RowProps {
  id: string;
  setting: Setting;
  value: number;
  slide: (value: number) => void;
  put: (value: number) => void;
}

function SettingRow({ id, setting, value, slide, put }: RowProps) {
  const [at, setAt] = useState<number | null>(null);
  useWorkshop((w) => w.settled);
  return (
    <div className="setting">
      <label htmlFor={id} title={setting.tip}>
        {setting.label}
      </label>
      <NumberField
        id={`${id}-n`}
        label={setting.label}
        tip={setting.tip}
        value={at ?? value}
        unit={setting.unit}
        digits={2}
        min={setting.min}
        max={setting.max}
        onCommit={put}
      />
      <Slider
        id={id}
        tip={setting.tip}
        min={setting.min}
        max={setting.max}
        step={setting.step}
        value={value}
        onSlide={(v) => {
          setAt(v);
          slide(v);
        }}
        onCommit={(v) => {
          setAt(null);
          put(v);
        }}
        onCancel={() => {
          setAt(null);
          putBack();
        }}
      />
    </div>
  );
}
