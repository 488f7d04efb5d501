/** What a bench is called, to those who hear it and to the browser's tabs; it takes the focus when the bench changes. */
import { useEffect, useRef } from "react";
import { useProduction, useWorkshop, type Bench } from "../session";

export function BenchHead({ bench, name }: { bench: Bench; name: string }) {
  const production = useProduction()?.name;
  const what = useWorkshop((w) => {
    const id = { pieces: w.puppet, rig: w.puppet, motion: w.motion, voice: w.motion, shots: w.shot, render: null }[
      bench
    ];
    const found = id ? w.documents[id] : undefined;
    return found && "name" in found ? found.name : undefined;
  });
  const said = [name, what].filter(Boolean).join(", ");
  useEffect(() => {
    document.title = [said, production, "Sorvan"].filter(Boolean).join(", ");
    return () => {
      document.title = "Sorvan";
    };
  }, [said, production]);
  const heading = useRef<HTMLHeadingElement>(null);
  const before = useRef(bench);
  useEffect(() => {
    if (before.current !== bench) heading.current?.focus({ preventScroll: true });
    before.current = bench;
  }, [bench]);
  return (
    <h1 ref={heading} id="bench-title" tabIndex={-1} className="visually-hidden">
      {said}
    </h1>
  );
}
