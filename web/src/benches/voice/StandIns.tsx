/** What fills in for the mouths that the set lacks: seen, with the word in which it is heard, and another chosen by its picture. */
import { MouthThumb } from "../../parts/MouthThumb";
import { submit } from "../../session";
import { Menu } from "../../ui/Menu";
import type { Exposed, MouthChart, Puppet } from "../../wire/types";
import { valueOf } from "./commands";

interface Props {
  puppet: Puppet;
  chart: MouthChart;
  mood: string;
  missing: Exposed["missing"];
}

export function StandIns({ puppet, chart, mood, missing }: Props) {
  const rows = Object.entries(missing);
  if (!rows.length) return null;
  const picture = (id: string) => {
    const mouth = chart.mouths?.[id];
    const value = mouth && valueOf(mouth, mood);
    return value === undefined ? null : (
      <MouthThumb puppet={puppet} chart={chart} value={value} width={34} height={22} />
    );
  };
  const speaking = Object.values(chart.mouths ?? {}).filter((m) => m.speaks);
  return (
    <section className="stand-ins" aria-label="Mouths that fill in">
      <h3 className="heading small mb-1">Not drawn: what fills in</h3>
      {rows.map(([group, { mouth, sounds, heard }]) => (
        <div key={group} className="d-flex align-items-center gap-1">
          <span className="flex-grow-1 text-truncate">
            {group}
            <span className="faint small">{heard ? ` in “${heard}”` : sounds.length ? "" : " in pauses"}</span>
          </span>
          {sounds.length ? (
            <Menu
              label={`${group}: ${chart.mouths?.[mouth]?.name ?? mouth} fills in; choose another`}
              align="end"
              entries={speaking.map((m) => ({
                key: m.id,
                chosen: m.id === mouth,
                text: (
                  <span className="d-flex align-items-center gap-2">
                    {picture(m.id)} {m.name}
                  </span>
                ),
                run: () => void submit({ do: "give-sounds", puppet: puppet.id, labels: sounds, mouth: m.id }),
              }))}
            >
              {picture(mouth)} {chart.mouths?.[mouth]?.name ?? mouth}
            </Menu>
          ) : (
            <span className="d-flex align-items-center gap-1">
              {picture(mouth)} {chart.mouths?.[mouth]?.name ?? mouth}
            </span>
          )}
        </div>
      ))}
    </section>
  );
}
