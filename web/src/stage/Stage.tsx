/** The stage: the paper with the puppet on it, an overlay of handles, and the hand upon both. */
import { distance } from "../geometry";
import type { Canvas, Image } from "canvaskit-wasm";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import type { Point, Reference } from "../wire/types";
import { get, puppetOf, set, subscribe, useProduction, useWorkshop } from "../session";
import { measure } from "./measure";
import { OnionSkin } from "./onion";
import { painter, type Painter } from "./painter";
import { sceneAt, type Box, type Scene } from "./scene";
import { makeTarget, type Target } from "./surface";
import { holding } from "../ui/shortcuts";
import { hitOf, type Drag, type Hand, type Tool } from "./tool";

export interface View {
  scale: number;
  x: number;
  y: number;
}

interface Props {
  tool: Tool;
  /** Drawn over the stage, in screen pixels; `to` takes stage units there. */
  overlay?: (to: (p: Point) => Point, view: View) => ReactNode;
  children?: ReactNode;
  tried?: boolean;
  /** What to show when nothing else is asked for; the whole paper if not given. */
  focus?: Box | null;
  label: string;
}

interface Grip {
  pointer: number;
  pan: boolean;
  from: Point;
  moved: boolean;
  drag: Drag | null;
  release: () => void;
}

const clamp = (v: number, low: number, high: number) => Math.max(low, Math.min(high, v));

export function Stage({ tool, overlay, children, tried, focus, label }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState<[number, number]>([0, 0]);
  const [view, setView] = useState<View | null>(null);
  const production = useProduction();
  const isolated = useWorkshop((w) => w.isolated);
  const [width, height] = [production?.width ?? 1280, production?.height ?? 720];
  const fitted = useMemo<View>(() => {
    const [l, t, r, b] = focus ?? [0, 0, width, height];
    const scale = Math.max(0.02, Math.min((size[0] - 24) / (r - l), (size[1] - 24) / (b - t)));
    return { scale, x: (size[0] - (l + r) * scale) / 2, y: (size[1] - (t + b) * scale) / 2 };
  }, [size, width, height, focus]);
  const shown = view ?? fitted;

  useEffect(() => {
    const element = box.current!;
    const observer = new ResizeObserver(() => setSize([element.clientWidth, element.clientHeight]));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  usePainting(canvas, size, shown, width, height, production?.paper ?? "#ffffffff");

  const toStage = useCallback(
    (event: { clientX: number; clientY: number }): Point => {
      const place = box.current!.getBoundingClientRect();
      return [
        (event.clientX - place.left - shown.x) / shown.scale,
        (event.clientY - place.top - shown.y) / shown.scale,
      ];
    },
    [shown],
  );
  const to = useCallback((p: Point): Point => [p[0] * shown.scale + shown.x, p[1] * shown.scale + shown.y], [shown]);

  /** The hand upon the stage: one pointer, from when it goes down until it goes up, is lost or taken back. */
  const grip = useRef<Grip | null>(null);
  const hand = (event: React.PointerEvent): Hand => {
    const element = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-handle]");
    return {
      at: toStage(event),
      hit: hitOf(element?.getAttribute("data-handle")),
      shift: event.shiftKey,
      alt: event.altKey,
      scale: shown.scale,
    };
  };

  const letGo = useCallback((pointer?: number) => {
    const held = grip.current;
    if (!held || (pointer !== undefined && held.pointer !== pointer)) return;
    grip.current = null;
    held.release();
    held.drag?.cancel();
  }, []);
  const down = (event: React.PointerEvent) => {
    if ((event.target as HTMLElement).closest("button, a, input, select, label")) return;
    const pan = event.button === 1 || event.button === 2;
    if ((!pan && event.button !== 0) || grip.current) return;
    box.current!.focus({ preventScroll: true });
    try {
      box.current!.setPointerCapture(event.pointerId);
    } catch {
      // A pointer that is already gone can't be held, and needs no holding.
    }
    const drag = pan ? null : tool.begin(hand(event));
    const release = holding(() => letGo());
    grip.current = { pointer: event.pointerId, pan, from: [event.clientX, event.clientY], moved: false, drag, release };
    event.preventDefault();
  };
  const move = (event: React.PointerEvent) => {
    const held = grip.current;
    if (held?.pointer !== event.pointerId) return;
    if (held.pan) {
      setView({ ...shown, x: shown.x + event.clientX - held.from[0], y: shown.y + event.clientY - held.from[1] });
      held.from = [event.clientX, event.clientY];
      return;
    }
    if (!held.moved && distance([event.clientX, event.clientY], held.from) < 3) return;
    held.moved = true;
    measure("pointer");
    held.drag?.move(hand(event));
  };
  const up = (event: React.PointerEvent) => {
    const held = grip.current;
    if (held?.pointer !== event.pointerId) return;
    grip.current = null;
    held.release();
    held.drag?.end(hand(event), held.moved);
  };
  // A tool that is put away takes its drag with it.
  useEffect(() => () => letGo(), [tool, letGo]);

  useEffect(() => {
    const element = box.current!;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const place = element.getBoundingClientRect();
      const [px, py] = [event.clientX - place.left, event.clientY - place.top];
      setView((before) => {
        const v = before ?? fitted;
        const scale = clamp(v.scale * Math.exp(-event.deltaY * 0.0015), 0.05, 40);
        const grown = scale / v.scale;
        return { scale, x: px - (px - v.x) * grown, y: py - (py - v.y) * grown };
      });
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => {
      element.removeEventListener("wheel", wheel);
    };
  }, [fitted]);

  return (
    <div
      ref={box}
      className={`stage${tried ? " tried" : ""}`}
      tabIndex={0}
      role="application"
      aria-label={label}
      data-scale={shown.scale}
      data-x={shown.x}
      data-y={shown.y}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={(e) => letGo(e.pointerId)}
      onLostPointerCapture={(e) => letGo(e.pointerId)}
      onContextMenu={(e) => e.preventDefault()}
    >
      <canvas ref={canvas} />
      <svg aria-hidden="true">{overlay?.(to, shown)}</svg>
      {children}
      {isolated && (
        <button
          type="button"
          className="icon-btn card-sheet position-absolute"
          style={{ left: 8, bottom: 8 }}
          onClick={() => set({ isolated: false })}
        >
          <i className="bi bi-zoom-in" aria-hidden="true" /> Shown alone: show all
        </button>
      )}
      {view && (
        <button
          type="button"
          className="icon-btn card-sheet position-absolute"
          style={{ right: 8, bottom: 8 }}
          onClick={() => setView(null)}
        >
          <i className="bi bi-arrows-angle-contract" aria-hidden="true" /> Fit
        </button>
      )}
    </div>
  );
}

/** Milliseconds a picture may take while playing, and the smallest part of the full size it goes down to. */
const BUDGET = 24;
const LEAST = 0.4;

interface Sheet {
  view: View;
  width: number;
  height: number;
  paper: string;
}

interface Under {
  image: Image | null;
  behind: Scene["behind"] | null;
  of: Sheet | null;
  target: Target | null;
}

/** The bench around the paper, in the colour of the theme. */
const ground = (): string =>
  `${getComputedStyle(document.documentElement).getPropertyValue("--stage-ground").trim()}ff`;

function paintUnder(
  ready: Painter,
  c: Canvas,
  ratio: number,
  { view, width, height, paper }: Sheet,
  behind: Scene["behind"] | null,
): void {
  c.clear(ready.colour(ground()));
  c.save();
  c.scale(ratio, ratio);
  c.translate(view.x, view.y);
  c.scale(view.scale, view.scale);
  const sheet = new ready.kit.Paint();
  sheet.setColor(ready.colour(paper));
  c.drawRect(ready.kit.XYWHRect(0, 0, width, height), sheet);
  sheet.delete();
  if (behind) {
    c.clipRect(ready.kit.XYWHRect(0, 0, width, height), ready.kit.ClipOp.Intersect, true);
    ready.draw(c, { ...behind, at: 0 });
  }
  c.restore();
}

/** The picture laid under the work, in step with the frames. It is asked for when it is not here yet. */
export function drawReference(ready: Painter, c: Canvas, reference: Reference, frame: number, again: () => void): void {
  const count = reference.pictures.length;
  const id = reference.pictures[(((frame + (reference.offset ?? 0)) % count) + count) % count]!;
  const image = ready.pictureNow(id);
  if (!image) {
    void ready.picture(id).then(again, () => undefined);
    return;
  }
  const { kit } = ready;
  const faded = new kit.Paint();
  faded.setAlphaf(reference.opacity ?? 0.5);
  const scale = reference.scale ?? 1;
  const place = kit.XYWHRect(reference.x ?? 0, reference.y ?? 0, reference.width * scale, reference.height * scale);
  c.drawImageRect(image, kit.XYWHRect(0, 0, image.width(), image.height()), place, faded);
  faded.delete();
}

/** Keep the canvas showing the scene: whenever something it shows changes, and on every frame of playback. */
function usePainting(
  canvas: React.RefObject<HTMLCanvasElement | null>,
  size: [number, number],
  view: View,
  width: number,
  height: number,
  paper: string,
): void {
  const surface = useRef<Target | null>(null);
  const kit = useRef<Painter | null>(null);
  const wanted = useRef<Sheet>({ view, width, height, paper });
  const under = useRef<Under>({ image: null, behind: null, of: null, target: null });
  const [skin] = useState(() => new OnionSkin());
  const asked = useRef(0);
  /** Milliseconds that a picture takes, smoothed, and the part of the full size it is drawn at. */
  const cost = useRef(0);
  const quality = useRef(1);
  const remake = useRef(() => {});
  const ask = useRef(() => {});

  const paint = useCallback(() => {
    asked.current = 0;
    const [target, ready] = [surface.current, kit.current];
    if (!target || !ready) return;
    const { view } = wanted.current;
    const { plan, pose, frame, isolated, pieces, bench } = get();
    const scene = sceneAt(plan, pose, frame);
    const ratio = target.ratio;
    const began = performance.now();
    const c = target.surface.getCanvas();
    const behind = isolated ? null : (scene?.behind ?? null);
    const still = under.current;
    if (still.image === null || still.behind !== behind || still.of !== wanted.current || still.target !== target) {
      still.image?.delete();
      // The paper and the backdrop stand still while the puppet moves: they are painted once.
      paintUnder(ready, c, ratio, wanted.current, behind);
      target.surface.flush();
      const drawn = !behind || ready.has(behind.items);
      under.current = { image: drawn ? target.surface.makeImageSnapshot() : null, behind, of: wanted.current, target };
    } else {
      c.drawImage(still.image, 0, 0);
    }
    const reference = bench === "render" ? null : puppetOf(get())?.reference;
    if (scene) {
      c.save();
      c.scale(ratio, ratio);
      c.translate(view.x, view.y);
      c.scale(view.scale, view.scale);
      if (reference && !reference.hidden) drawReference(ready, c, reference, frame, ask.current);
      const only = isolated ? new Set(pieces) : undefined;
      if (bench === "motion" && !get().playing) skin.draw(ready, c, target, scene, view.scale * ratio, only);
      ready.draw(c, scene.frame, only);
      c.restore();
    }
    target.present();
    if (scene && ready.has(scene.frame.items)) canvas.current?.setAttribute("data-drawn", "");
    cost.current = cost.current * 0.7 + (performance.now() - began) * 0.3;
    if (get().playing && cost.current > BUDGET && quality.current > LEAST) {
      // Sharpness goes before frames do.
      quality.current = Math.max(LEAST, quality.current * Math.max(0.6, Math.sqrt(BUDGET / cost.current)));
      remake.current();
    }
    if (pose) measure("drawn", Object.values(pose.tried)[0]);
    if (get().playing) measure("played", frame);
    if (get().trial && !pose) measure("tried");
    measure("painted", performance.now() - began);
  }, [canvas, skin]);

  const again = useCallback(() => {
    if (!asked.current) asked.current = requestAnimationFrame(paint);
  }, [paint]);
  ask.current = again;

  useEffect(() => {
    wanted.current = { view, width, height, paper };
    again();
  }, [view, width, height, paper, again]);

  useEffect(() => {
    // The ground around the paper changes with the light.
    const observer = new MutationObserver(() => {
      wanted.current = { ...wanted.current };
      again();
    });
    observer.observe(document.documentElement, { attributes: true, attributeFilter: ["data-bs-theme"] });
    return () => observer.disconnect();
  }, [again]);

  useEffect(() => {
    let live = true;
    const element = canvas.current;
    if (!element || size[0] < 2) return;
    remake.current = () => {
      const ready = kit.current;
      if (!live || !ready) return;
      const ratio = (window.devicePixelRatio || 1) * quality.current;
      under.current.image?.delete();
      under.current.image = null;
      skin.clear();
      surface.current?.close();
      element.width = Math.round(size[0] * ratio);
      element.height = Math.round(size[1] * ratio);
      surface.current = makeTarget(ready, element, ratio);
      cost.current = 0;
      again();
    };
    void painter().then((ready) => {
      kit.current = ready;
      remake.current();
    });
    return () => {
      live = false;
      cancelAnimationFrame(asked.current);
      asked.current = 0;
      under.current.image?.delete();
      under.current.image = null;
      skin.clear();
      surface.current?.close();
      surface.current = null;
    };
  }, [canvas, size, again, skin]);

  useEffect(() => {
    const holder = {};
    let live = true;
    let timer = 0;
    // Art that could not be had is asked for again.
    const late = () => (timer = window.setTimeout(load, 2000));
    const load = () => {
      clearTimeout(timer);
      const { plan, pose } = get();
      const needed = [...(pose?.drawn.items ?? plan?.drawn.items ?? []), ...(plan?.behind?.items ?? [])];
      const arts = new Set([...needed, ...(plan?.drawn.items ?? [])].flatMap((i) => i.arts));
      void painter().then((p) => live && p.hold(holder, arts));
      void painter().then((p) => (p.has(needed) ? undefined : p.prepare(needed).then(again, late)));
    };
    load();
    const end = subscribe((now, before) => {
      if (!now.playing && quality.current < 1) {
        quality.current = 1;
        remake.current();
      }
      if (now.plan !== before.plan || now.pose?.drawn.items !== before.pose?.drawn.items) load();
      if ((now.pose !== before.pose && now.pose !== null) || (now.playing && now.frame !== before.frame)) {
        // Under a hand and while playing every millisecond counts: do not wait for the next display frame.
        cancelAnimationFrame(asked.current);
        paint();
        return;
      }
      if (
        now.plan !== before.plan ||
        now.pose !== before.pose ||
        now.trial !== before.trial ||
        now.onion !== before.onion ||
        (now.onion.limb && now.joint !== before.joint) ||
        now.frame !== before.frame ||
        now.pieces !== before.pieces ||
        now.isolated !== before.isolated ||
        now.documents !== before.documents
      )
        again();
    });
    return () => {
      live = false;
      void painter().then((p) => p.hold(holder, null));
      clearTimeout(timer);
      end();
    };
  }, [again, paint]);
}
