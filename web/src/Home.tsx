/** All productions: open one, start one, load one. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { useNavigate } from "react-router";
import { createProduction, glance, loadArchive, pictureOf, productions, removeProduction } from "./wire/http";
import type { ListedView } from "./wire/types";
import { AskName } from "./ui/AskName";
import { tell } from "./session";
import { Asked } from "./ui/Asked";
import { Notices } from "./parts/Notices";
import { usePerson } from "./people/Door";
import { Person } from "./people/Person";
import { MAY, Sharing } from "./people/Sharing";

export function Home() {
  const navigate = useNavigate();
  const cache = useQueryClient();
  const { data, isLoading, failureCount } = useQuery({ queryKey: ["productions"], queryFn: productions, staleTime: 0 });
  const [asking, setAsking] = useState(false);
  const [removing, setRemoving] = useState<ListedView | null>(null);
  const [sharing, setSharing] = useState<ListedView | null>(null);
  const people = usePerson().data?.sign_in;
  const file = useRef<HTMLInputElement>(null);
  const open = (p: ListedView, bench = "pieces") => void navigate(`/p/${p.id}/${bench}`);
  const start = (name: string) => void createProduction(name).then((made) => open(made), tell);
  return (
    <div className="home">
      <Notices />
      <main>
        <Person />
        <div className="d-flex flex-wrap align-items-center gap-3 mb-4">
          <img src="/pin.svg" width={44} height={44} alt="" />
          <div className="flex-grow-1">
            <h1 className="h2 mb-0">Sorvan</h1>
            <div className="faint">Paper puppets, pinned at the joints and posed over time.</div>
          </div>
          <Button className="text-nowrap" onClick={() => setAsking(true)}>
            <i className="bi bi-plus-lg me-2" aria-hidden="true" />
            New production
          </Button>
          <Button variant="outline-primary" className="text-nowrap" onClick={() => file.current!.click()}>
            Load an archive
          </Button>
          <input
            ref={file}
            type="file"
            accept=".zip"
            className="visually-hidden-file"
            tabIndex={-1}
            aria-label="Archive to load"
            onChange={(e) => {
              const chosen = e.target.files?.[0];
              if (chosen) void loadArchive(chosen).then((made) => open(made), tell);
              e.target.value = "";
            }}
          />
        </div>
        {isLoading && failureCount > 0 && <p role="alert">Sorvan or its database does not answer yet. Trying again…</p>}
        {data?.length === 0 && (
          <p className="card-sheet p-4 text-center">Nothing here yet. Start a production, and bring in your art.</p>
        )}
        {data?.map((p) => (
          <div key={p.id} className="film card-sheet">
            <Listed production={p} open={open} />
            {people && p.may === "own" && (
              <button type="button" className="icon-btn" aria-label={`Share ${p.name}`} onClick={() => setSharing(p)}>
                <i className="bi bi-people" aria-hidden="true" />
              </button>
            )}
            {p.may === "own" && (
              <button type="button" className="icon-btn" aria-label={`Remove ${p.name}`} onClick={() => setRemoving(p)}>
                <i className="bi bi-trash" aria-hidden="true" />
              </button>
            )}
          </div>
        ))}
      </main>
      {asking && <AskName title="New production" start="" close={() => setAsking(false)} done={start} />}
      {sharing && <Sharing id={sharing.id} name={sharing.name} close={() => setSharing(null)} />}
      {removing && (
        <Asked
          title={`Remove “${removing.name}”?`}
          keep="Keep it"
          go="Remove it"
          close={() => setRemoving(null)}
          run={() =>
            void removeProduction(removing.id).then(() => cache.invalidateQueries({ queryKey: ["productions"] }), tell)
          }
        >
          This can't be undone. Export it first if you may want it again.
        </Asked>
      )}
    </div>
  );
}

/** A production on the list: what it looks like, and how long its film is. One with shots opens on them. */
function Listed({ production: p, open }: { production: ListedView; open: (p: ListedView, bench?: string) => void }) {
  const { data } = useQuery({ queryKey: ["glance", p.id, p.changed], queryFn: () => glance(p.id) });
  const bench = data?.shots ? "shots" : "pieces";
  const many = (n: number, what: string) => `${n} ${what}${n === 1 ? "" : "s"}`;
  const facts = data
    ? [
        data.shots > 0 && `${data.seconds.toFixed(1)} s of film in ${many(data.shots, "shot")}`,
        data.puppets > 0 && many(data.puppets, "puppet"),
      ].filter(Boolean)
    : [];
  return (
    <>
      <button
        type="button"
        className="btn btn-link text-start flex-grow-1 p-0 text-decoration-none d-flex gap-3 align-items-center"
        onClick={() => open(p, bench)}
      >
        {data?.picture ? (
          <img src={pictureOf(p.id, data.picture)} alt="" width={144} height={81} className="film-picture" />
        ) : (
          <span className="film-picture" />
        )}
        <span>
          <span className="heading inked d-block fs-5">{p.name}</span>
          {facts.length > 0 && <span className="d-block small">{facts.join(", ")}</span>}
          {p.may && p.may !== "own" && (
            <span className="d-block small">
              <i className="bi bi-people me-1" aria-hidden="true" />
              shared with you, who {MAY[p.may]}
            </span>
          )}
          <span className="faint small">last changed {new Date(p.changed).toLocaleString()}</span>
        </span>
      </button>
      <Button variant="outline-primary" size="sm" onClick={() => open(p, bench)} aria-label={`Open ${p.name}`}>
        Open
      </Button>
    </>
  );
}
