import { Carrying } from "./ui/Carrying";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { useCallback, useEffect, type ComponentType } from "react";
import { BrowserRouter, Link, Navigate, Route, Routes, useNavigate, useParams } from "react-router";
import { Home } from "./Home";
import { MotionBench } from "./benches/motion/MotionBench";
import { PiecesBench } from "./benches/pieces/PiecesBench";
import { RenderBench } from "./benches/render/RenderBench";
import { ShotsBench } from "./benches/shots/ShotsBench";
import { VoiceBench } from "./benches/voice/VoiceBench";
import { RigBench } from "./benches/rig/RigBench";
import { ConnectionBanner, Notices } from "./parts/Notices";
import { ErrorBoundary } from "./ui/ErrorBoundary";
import { fieldsFirst, keepFocus } from "./ui/focus";
import { BenchHead } from "./parts/BenchHead";
import { ChooseParts } from "./parts/choosing/ChooseParts";
import { UseAgain } from "./parts/reuse/UseAgain";
import { ImportReport, UnderWay } from "./parts/Imports";
import { SideEdges } from "./parts/SideEdges";
import { Spoken } from "./parts/Spoken";
import { BENCHES, TopBar } from "./parts/TopBar";
import { Door } from "./people/Door";
import { enter, leave, mustStay, useSize, useWorkshop, type Bench, turnTo } from "./session";
import { keepPage } from "./ui/leaving";
import { ServiceError } from "./wire/http";

const SHOWN: Record<Bench, ComponentType<{ go: (bench: Bench) => void }>> = {
  pieces: PiecesBench,
  rig: RigBench,
  motion: MotionBench,
  voice: VoiceBench,
  shots: ShotsBench,
  render: RenderBench,
};

/** What was refused is not asked for again; only what may be answered later. */
const later = (_: number, error: Error): boolean => error instanceof ServiceError && error.passing;
const queries = new QueryClient({ defaultOptions: { queries: { retry: later, retryDelay: 1500 } } });

export function App() {
  useEffect(() => keepPage(mustStay), []);
  return (
    <QueryClientProvider client={queries}>
      <Door>
        <BrowserRouter>
          <Routes>
            <Route path="/" element={<Home />} />
            <Route path="/p/:production/:bench?" element={<Workshop />} />
            <Route path="*" element={<Navigate to="/" replace />} />
          </Routes>
        </BrowserRouter>
      </Door>
    </QueryClientProvider>
  );
}

/** Where a production was to be that there is not, or not any more. */
function Gone() {
  return (
    <div className="home">
      <main>
        <h1 className="h3">There is no such production</h1>
        <p>It was removed, the address is not quite right, or it is not shared with you. Nothing else is lost.</p>
        <Link to="/" className="btn btn-primary">
          All productions
        </Link>
      </main>
    </div>
  );
}

function Workshop() {
  const { production, bench } = useParams();
  const navigate = useNavigate();
  const ready = useWorkshop((w) => w.ready && w.id === production);
  const gone = useWorkshop((w) => w.gone);
  const known = BENCHES.find((b) => b.id === bench)?.id;
  const [width, height] = useSize();

  useEffect(() => {
    const session = enter(production!);
    return () => leave(session);
  }, [production]);

  useEffect(() => {
    if (known) turnTo({ bench: known, pose: null, playing: false, isolated: false, speed: 1, range: null });
  }, [known, production]);

  useEffect(keepFocus, []);
  useEffect(fieldsFirst, []);

  const go = useCallback((to: Bench) => void navigate(`/p/${production}/${to}`), [navigate, production]);

  if (!known) return <Navigate to={`/p/${production}/pieces`} replace />;
  if (gone) return <Gone />;
  const name = BENCHES.find((b) => b.id === known)!.name;
  const On = SHOWN[known];
  // Above a panel as wide as the window there would be little room for what is higher than wide.
  const upright = height > width && (known === "motion" || known === "shots");
  return (
    <Carrying>
      <div
        className={`workshop ${known}${upright ? " upright" : ""}`}
        style={{ "--shape": width / height } as React.CSSProperties}
      >
        <a href="#bench-title" className="skip-link visually-hidden-focusable">
          Skip to the {name} bench
        </a>
        <TopBar go={go} />
        <ConnectionBanner />
        <Notices>
          <UnderWay />
        </Notices>
        <ImportReport />
        <ChooseParts />
        <UseAgain />
        <Spoken />
        <main aria-labelledby="bench-title">
          <BenchHead bench={known} name={name} />
          {ready && !upright && <SideEdges bench={known} />}
          {ready && (
            <ErrorBoundary key={known} what={`the ${name} bench`}>
              <On go={go} />
            </ErrorBoundary>
          )}
        </main>
      </div>
    </Carrying>
  );
}
