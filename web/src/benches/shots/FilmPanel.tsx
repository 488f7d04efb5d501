/** Details of the whole film: how long it is, how far its shots have come, and all that is left to do. */
import { Button } from "react-bootstrap";
import { frameRate, shotsOf, useWorkshop, type Bench } from "../../session";
import { Fold } from "../../ui/Fold";
import { openShot } from "./commands";
import { useOverview } from "../../parts/overview";
import { clockTime } from "./ShotCards";
import { FoundList } from "./ShotChecks";
import { PASSES } from "./ShotPanel";

export function FilmPanel({ go }: { go: (bench: Bench) => void }) {
  const documents = useWorkshop((w) => w.documents);
  const overview = useOverview();
  const rate = frameRate({ documents });
  const shots = shotsOf({ documents });
  const frames = useWorkshop((w) => w.film?.frames);
  const left = shots.filter((s) => (overview?.shots[s.id]?.findings ?? 0) > 0);
  const apart = overview?.apart ?? [];
  const count = [...left.map((s) => overview!.shots[s.id]!.findings), ...apart.map((a) => a.found.length)].reduce(
    (n, m) => n + m,
    0,
  );
  return (
    <>
      <Fold title="Film" note={frames !== undefined && clockTime(frames, rate)}>
        <dl className="facts mb-2">
          <dt>Length</dt>
          <dd>{frames !== undefined && `${frames} frames`}</dd>
          <dt>Rate</dt>
          <dd>{Number(rate.toFixed(3))} a second</dd>
          {PASSES.map((p) => (
            <div key={p.id} className="contents">
              <dt>{p.name}</dt>
              <dd>{several(shots.filter((s) => s.stage === p.id).length, "shot")}</dd>
            </div>
          ))}
        </dl>
        <Button size="sm" onClick={() => go("render")}>
          Render the film
        </Button>
      </Fold>
      <Fold title="Left to do in all" note={count ? String(count) : "nothing"}>
        {!count && <p className="faint mb-0">No likely mistakes in shots, motions or rigs.</p>}
        {left.map((shot) => (
          <section key={shot.id} aria-label={`Left to do in ${shot.name}`}>
            <h3 className="found-of">
              <button type="button" onClick={() => openShot(shot.id)}>
                {shots.indexOf(shot) + 1} · {shot.name}
              </button>
            </h3>
            <FoundList found={overview!.shots[shot.id]!.found} shot={shot} go={go} />
          </section>
        ))}
        {apart.map((a) => (
          <section key={a.puppet} aria-label={`Left to do with ${a.name}`}>
            <h3 className="found-of">{a.name}, in no shot</h3>
            <FoundList found={a.found} shot={null} go={go} />
          </section>
        ))}
      </Fold>
    </>
  );
}

const several = (n: number, what: string): string => (n === 0 ? "none" : `${n} ${what}${n === 1 ? "" : "s"}`);
