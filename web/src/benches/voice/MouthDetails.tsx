/** One mouth of the set: its name, how it looks, what is drawn for it, and the sounds that take it. */
import { Button, Form } from "react-bootstrap";
import { submit, pickOut } from "../../session";
import { NumberRow, TextField } from "../../ui/fields";
import { Fold } from "../../ui/Fold";
import { Menu } from "../../ui/Menu";
import { Select } from "../../ui/Select";
import { CHOICES } from "../../wire/facts.gen";
import type { Exposed, Mouth, MouthChart, Puppet } from "../../wire/types";
import { SOUND } from "./MouthCard";
import { useCarried } from "../../ui/Carrying";
import { MouthThumb } from "../../parts/MouthThumb";

const GROUPS = CHOICES["Mouth.group"];
const LOOK = ["open", "wide", "round", "teeth", "tongue"];

export function MouthDetails({
  puppet,
  chart,
  mouth,
  mood,
  exposed,
}: {
  puppet: Puppet;
  chart: MouthChart;
  mouth: Mouth;
  mood: string;
  exposed: Exposed | undefined;
}) {
  const sounds = exposed?.sounds[mouth.id] ?? [];
  const drawings = puppet.pieces?.[chart.piece ?? ""]?.drawings ?? [];
  const shows = mouth.shows?.[mood] ?? [];
  return (
    <Fold title={`“${mouth.name}”`} note={`${sounds.length} sounds`}>
      <div className="fields">
        <label htmlFor="mouth-name">Name</label>
        <TextField
          id="mouth-name"
          value={mouth.name}
          onCommit={(name) => {
            if (name) void submit({ do: "set-mouth", puppet: puppet.id, mouth: mouth.id, name });
          }}
        />
        <label htmlFor="mouth-group">Kind</label>
        <Select
          id="mouth-group"
          size="sm"
          value={mouth.group ?? ""}
          onChange={(e) =>
            void submit({
              do: "set-mouth",
              puppet: puppet.id,
              mouth: mouth.id,
              group: e.target.value as NonNullable<Mouth["group"]>,
            })
          }
        >
          {!mouth.group && <option value="">of its own</option>}
          {GROUPS.map((group) => (
            <option key={group}>{group}</option>
          ))}
        </Select>
        <span className="faint">Speech</span>
        <Form.Check
          id="mouth-speaks"
          label="takes sounds by itself"
          checked={mouth.speaks}
          onChange={(e) =>
            void submit({ do: "set-mouth", puppet: puppet.id, mouth: mouth.id, speaks: e.target.checked })
          }
        />
        {LOOK.map((part, n) => (
          <LookRow key={part} part={part} n={n} puppet={puppet} mouth={mouth} />
        ))}
        {drawings.length > 0 && (
          <>
            <span className="faint">Drawings ({mood})</span>
            <span className="d-flex gap-1 flex-wrap align-items-center">
              {shows.map((value, n) => (
                <button
                  key={`${value}-${n}`}
                  type="button"
                  className="icon-btn"
                  title="Take it out"
                  onClick={() =>
                    void submit({
                      do: "set-mouth",
                      puppet: puppet.id,
                      mouth: mouth.id,
                      mood,
                      shows: shows.filter((_, k) => k !== n),
                    })
                  }
                >
                  <MouthThumb puppet={puppet} chart={chart} value={value} width={34} height={22} /> ×
                </button>
              ))}
              <Menu
                label="Add a drawing, shown after the others"
                entries={drawings.map((d) => ({
                  key: d.id,
                  text: d.name,
                  run: () =>
                    void submit({
                      do: "set-mouth",
                      puppet: puppet.id,
                      mouth: mouth.id,
                      mood,
                      shows: [...shows, d.number],
                    }),
                }))}
              >
                <i className="bi bi-plus" aria-hidden="true" />
              </Menu>
            </span>
          </>
        )}
      </div>
      <div className="sounds mt-1" aria-label={`Sounds that take ${mouth.name}`}>
        {sounds.map((label) => (
          <Menu
            key={label}
            label={`${label || "pause"}: give it to another mouth`}
            entries={[
              ...Object.values(chart.mouths ?? {})
                .filter((m) => m.id !== mouth.id)
                .map((m) => ({
                  key: m.id,
                  text: `to ${m.name}`,
                  run: () => void submit({ do: "give-sounds", puppet: puppet.id, labels: [label], mouth: m.id }),
                })),
              chart.sounds?.[label] !== undefined && "line",
              chart.sounds?.[label] !== undefined && {
                text: "back to its usual mouth",
                run: () => void submit({ do: "give-sounds", puppet: puppet.id, labels: [label], mouth: null }),
              },
            ]}
          >
            <Sound label={label} given={chart.sounds[label] !== undefined} />
          </Menu>
        ))}
      </div>
      <Button
        size="sm"
        variant="outline-primary"
        className="mt-1"
        onClick={() => {
          pickOut({ keys: [] });
          void submit({ do: "remove-mouth", puppet: puppet.id, mouth: mouth.id });
        }}
      >
        Remove this mouth
      </Button>
    </Fold>
  );
}

function LookRow({ part, n, puppet, mouth }: { part: string; n: number; puppet: Puppet; mouth: Mouth }) {
  return (
    <NumberRow
      id={`look-${part}`}
      label={part}
      of="Mouth.look"
      times={100}
      value={mouth.look[n]}
      unit="%"
      digits={0}
      onCommit={(v) => {
        const look = [...mouth.look] as Mouth["look"];
        look[n] = v;
        void submit({ do: "set-mouth", puppet: puppet.id, mouth: mouth.id, look });
      }}
    />
  );
}

/** A sound that takes the mouth, to be carried onto another. */
function Sound({ label, given }: { label: string; given: boolean }) {
  const carrying = useCarried({ kind: SOUND, id: label, name: label });
  return (
    <span {...carrying} className={given ? "fw-bold" : ""}>
      {label}
    </span>
  );
}
