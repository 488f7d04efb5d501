/** What the service makes of the whole film, asked for again when something has changed. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useWorkshop } from "../session";
import * as http from "../wire/http";
import type { Shot } from "../wire/types";

/** Those of some shots that are shown and rendered with their poses held, as far as the service has been heard. */
export function useHeld(shots: Shot[]): Shot[] {
  const glances = useOverview()?.shots;
  // One that was taken to another pass since is heard of in a moment.
  return shots.filter((s) => glances?.[s.id]?.held && glances[s.id]!.stage === s.stage);
}

export function useOverview() {
  const production = useWorkshop((w) => w.id);
  const seq = useWorkshop((w) => w.seq);
  const [asked, setAsked] = useState(seq);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(seq), 600);
    return () => clearTimeout(timer);
  }, [seq]);
  return useQuery({
    queryKey: ["overview", production, asked],
    queryFn: () => http.overview(production),
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  }).data;
}
