/** The selected mouth of the ribbon: which it is, for how long, and why it is there. */
import { Button } from "react-bootstrap";
import { submit, useWorkshop } from "../../session";
import { channelOf } from "../../ribbon/MouthRow";
import { mouthRuns } from "../../ribbon/ribbon";
import type { Exposed, Motion, MouthChart } from "../../wire/types";
import { mouthsByValue } from "../../parts/MouthThumb";

export function MouthPanel({
  motion,
  chart,
  exposed,
}: {
  motion: Motion;
  chart: MouthChart;
  exposed: Exposed | undefined;
}) {
  const channel = channelOf(chart);
  const frame = useWorkshop((w) => w.keys.find((k) => k.channel === channel)?.frame);
  const keys = motion.channels?.[channel]?.keys;
  if (frame === undefined || !keys) return null;
  const run = mouthRuns(keys as Parameters<typeof mouthRuns>[0], motion.length).find((r) => r.start === frame);
  if (!run) return null;
  const name = mouthsByValue(chart).get(run.value)?.name ?? "another drawing";
  const why = run.hand
    ? "Put in by hand: it stays when the mouths are made again."
    : exposed?.runs.find((r) => r.start <= frame && frame < r.end)?.why;
  const count = run.end - run.start;
  return (
    <section className="card-sheet" aria-label="Selected mouth">
      <h2 className="heading mb-1">
        {name}{" "}
        <span className="faint small fw-normal">
          frames {run.start + 1}–{run.end} ({count})
        </span>
      </h2>
      {why && <p className="mb-1">{why}</p>}
      <Button
        size="sm"
        variant="outline-primary"
        title="The mouth before goes on"
        onClick={() => void submit({ do: "remove-keys", motion: motion.id, keys: [{ channel, frame }] })}
      >
        Take it out
      </Button>
    </section>
  );
}
