import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { useCallback, useEffect } from "react";
import { BrowserRouter, Navigate, Route, Routes, useNavigate, useParams } from "react-router";
import { Home } from "./Home";
import { MotionBench } from "./benches/motion/MotionBench";
import { PiecesBench } from "./benches/pieces/PiecesBench";
import { RenderBench } from "./benches/render/RenderBench";
import { ShotsBench } from "./benches/shots/ShotsBench";
import { VoiceBench } from "./benches/voice/VoiceBench";
import { RigBench } from "./benches/rig/RigBench";
import { ConnectionBanner, Notices } from "./ui/Notices";
import { BENCHES, TopBar } from "./parts/TopBar";
import { enter, leave, set, useWorkshop, type Bench } from "./session";

const queries = new QueryClient({ defaultOptions: { queries: { retry: true, retryDelay: 1500 } } });

export function App() {
  return (
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <Routes>
          <Route path="/" element={<Home />} />
          <Route path="/p/:production/:bench?" element={<Workshop />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
        <Notices />
      </BrowserRouter>
    </QueryClientProvider>
  );
}

function Workshop() {
  const { production, bench } = useParams();
  const navigate = useNavigate();
  const ready = useWorkshop((w) => w.ready && w.id === production);
  const gone = useWorkshop((w) => w.gone);
  const known = BENCHES.find((b) => b.id === bench)?.id;

  useEffect(() => {
    const session = enter(production!);
    return () => leave(session);
  }, [production]);

  useEffect(() => {
    if (known) set({ bench: known, pose: null, playing: false, isolated: false, speed: 1, range: null });
  }, [known, production]);

  const go = useCallback((to: Bench) => void navigate(`/p/${production}/${to}`), [navigate, production]);

  if (!known) return <Navigate to={`/p/${production}/pieces`} replace />;
  if (gone) return <Navigate to="/" replace />;
  return (
    <div className={`workshop ${known}`}>
      <TopBar go={go} />
      <ConnectionBanner />
      {ready && known === "pieces" && <PiecesBench go={go} />}
      {ready && known === "rig" && <RigBench go={go} />}
      {ready && known === "motion" && <MotionBench go={go} />}
      {ready && known === "voice" && <VoiceBench go={go} />}
      {ready && known === "shots" && <ShotsBench go={go} />}
      {ready && known === "render" && <RenderBench go={go} />}
    </div>
  );
}
