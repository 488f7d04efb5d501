/** Keeping a canvas showing the scene, or the shot: whenever something changes, and on every frame of playback. */
import type { Canvas, Image } from "canvaskit-wasm";
import { useCallback, useEffect, useRef, useState, useLayoutEffect } from "react";
import type { Reference } from "../wire/types";
import { get, lateness, puppetOf, subscribe, type FilmPlan, type ShotPlan } from "../session";
import { inverse } from "../geometry";
import { cameAt, weightAt } from "../session/film";
import { drawCels, itemsIn, viewAt } from "./cels";
import { drawFilm } from "./film";
import { measure } from "./measure";
import { insideOnly, shownOnly } from "./moment";
import { OnionSkin } from "./onion";
import { painter, type Painter } from "./painter";
import { sceneAt, type Scene } from "./scene";
import { Still } from "./still";
import { cardLost, makeTarget, type Target } from "./surface";
import { carefully } from "../ui/carefully";
import { usePixelRatio } from "../ui/ratio";

export interface View {
  scale: number;
  x: number;
  y: number;
}

/**
 * Milliseconds a picture may take while playing, those it is brought down to when it takes more, and the smallest part
 * of the full size it is drawn at for that. A frame at 24 a second lasts 41.7 ms, of which up to 16.7 pass until the
 * page is asked to draw.
 */
const BUDGET = 16;
const AIM = 11;
const LEAST = 0.3;
/** Pictures in a row that must be easy before they become sharper again; twice as many after each time that it did not
 * last. */
const EASY = 24;
const MOST_EASY = 384;

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
const groundColour = (): string =>
  `${getComputedStyle(document.documentElement).getPropertyValue("--stage-ground").trim()}ff`;

/** Draw in the units of the stage, where the view shows it. */
function onStage(c: Canvas, ratio: number, view: View, work: () => void): void {
  c.save();
  c.scale(ratio, ratio);
  c.translate(view.x, view.y);
  c.scale(view.scale, view.scale);
  work();
  c.restore();
}

function paintUnder(
  ready: Painter,
  c: Canvas,
  ratio: number,
  { view, width, height, paper }: Sheet,
  behind: Scene["behind"] | null,
): void {
  c.clear(ready.colour(groundColour()));
  onStage(c, ratio, view, () => {
    const sheet = new ready.kit.Paint();
    sheet.setColor(ready.colour(paper));
    c.drawRect(ready.kit.XYWHRect(0, 0, width, height), sheet);
    sheet.delete();
    if (!behind) return;
    c.clipRect(ready.kit.XYWHRect(0, 0, width, height), ready.kit.ClipOp.Intersect, true);
    ready.draw(c, { ...behind, at: 0 });
  });
}

/** The picture laid under the work, in step with the frames. It is asked for when it is not here yet. */
export function drawReference(ready: Painter, c: Canvas, reference: Reference, frame: number, again: () => void): void {
  const count = reference.pictures.length;
  const id = reference.pictures[(((frame + reference.offset) % count) + count) % count]!;
  const image = ready.pictureNow(id);
  if (!image) {
    void ready.picture(id).then(again, () => undefined);
    return;
  }
  const { kit } = ready;
  const faded = new kit.Paint();
  faded.setAlphaf(reference.opacity);
  const scale = reference.scale;
  const place = kit.XYWHRect(reference.x, reference.y, reference.width * scale, reference.height * scale);
  c.drawImageRect(image, kit.XYWHRect(0, 0, image.width(), image.height()), place, faded);
  faded.delete();
}

/**
 * Keep the canvas showing the scene: whenever something it shows changes, and on every frame of playback. Which canvas it is (of a
 * `turn`) another is asked for with `anew`: one that had a graphics card that is lost can never be drawn on by software.
 */
export function usePainting(
  canvas: React.RefObject<HTMLCanvasElement | null>,
  size: [number, number],
  view: View,
  width: number,
  height: number,
  paper: string,
  turn: number,
  anew: () => void,
): void {
  const fine = usePixelRatio();
  const surface = useRef<Target | null>(null);
  const kit = useRef<Painter | null>(null);
  const wanted = useRef<Sheet>({ view, width, height, paper });
  const ground = useRef<Under>({ image: null, behind: null, of: null, target: null });
  const [skin] = useState(() => new OnionSkin());
  const [resting] = useState(() => new Still());
  const asked = useRef(0);
  /** Milliseconds that a picture takes, smoothed, and the part of the full size it is drawn at. */
  const cost = useRef(0);
  const quality = useRef(1);
  /** The part of the full size at which it played last: where playing begins again. */
  const settled = useRef(1);
  /** How many pictures in a row were easy, and how many must be. */
  const easy = useRef({ had: 0, wanted: EASY });
  const remake = useRef(() => {});
  const ask = useRef(() => {});

  const draw = useCallback(() => {
    const [target, ready] = [surface.current, kit.current];
    if (!target || !ready) return;
    const { view } = wanted.current;
    const { plan, pose, frame, isolated, bench, shotPlan } = get();
    const film = filmOf(get());
    const scene = bench === "shots" ? null : sceneAt(plan, pose, frame);
    const ratio = target.ratio;
    const began = performance.now();
    const c = target.surface.getCanvas();
    const behind = isolated ? null : (scene?.behind ?? null);
    const still = ground.current;
    if (still.image === null || still.behind !== behind || still.of !== wanted.current || still.target !== target) {
      still.image?.delete();
      // The paper and the backdrop stand still while the puppet moves: they are painted once.
      paintUnder(ready, c, ratio, wanted.current, behind);
      target.surface.flush();
      const drawn = !behind || ready.has(behind.items);
      ground.current = { image: drawn ? target.surface.makeImageSnapshot() : null, behind, of: wanted.current, target };
    } else {
      c.drawImage(still.image, 0, 0);
    }
    if (film) {
      const { width, height, paper } = wanted.current;
      onStage(c, ratio, view, () => drawFilm(ready, c, film, frame, [width, height], paper));
    } else if (bench === "shots" && shotPlan) {
      drawShot(ready, c, ratio, wanted.current, shotPlan, frame);
    }
    const reference = bench === "render" ? null : puppetOf(get())?.reference;
    if (scene) {
      const only = shownOnly(get());
      const cropped = insideOnly(get());
      const inside = (work: () => void) =>
        onStage(c, ratio, view, () => {
          const { width, height } = wanted.current;
          if (cropped) c.clipRect(ready.kit.XYWHRect(0, 0, width, height), ready.kit.ClipOp.Intersect, true);
          work();
        });
      const figure = (from: number, to?: number) => inside(() => ready.draw(c, scene.frame, only, from, to));
      const under = reference?.hidden ? null : reference;
      const skinned = bench === "motion" && get().onion.on && !get().playing;
      if (under || skinned)
        inside(() => {
          if (under) drawReference(ready, c, under, frame, ask.current);
          if (skinned) skin.draw(ready, c, target, scene, view.scale * ratio, only);
        });
      const paper = ground.current.image;
      if (pose && paper && !only && !cropped && !under && !skinned && ready.has(scene.frame.items))
        figure(resting.draw(target.surface, c, paper, scene.frame, figure));
      else {
        resting.clear();
        figure(0);
      }
    }
    target.present();
    canvas.current?.toggleAttribute("data-drawn", allThere(get(), scene, ready));
    const took = performance.now() - began;
    // What is made anew for a picture, once, says nothing of the next.
    cost.current = cost.current ? cost.current * 0.5 + took * 0.5 : Math.min(took, BUDGET);
    // Where the film dissolves twice as much is drawn from one frame to the next: that is seen coming.
    const coming = film && get().playing ? weightAt(film, frame + 1) / weightAt(film, frame) : 1;
    const expected = cost.current * Math.max(1, coming);
    if (get().playing && expected > BUDGET && quality.current > LEAST) {
      // Sharpness goes before frames do.
      quality.current = Math.max(LEAST, quality.current * Math.max(0.5, Math.sqrt(AIM / expected)));
      easy.current = { had: 0, wanted: Math.min(MOST_EASY, easy.current.wanted * 2) };
      remake.current();
    } else if (get().playing && quality.current < 1) {
      easy.current.had = cost.current < AIM ? easy.current.had + 1 : 0;
      if (easy.current.had >= easy.current.wanted) {
        easy.current.had = 0;
        quality.current = Math.min(1, quality.current * Math.min(1.3, Math.sqrt(AIM / cost.current)));
        remake.current();
      }
    }
    if (pose) measure("drawn", Object.values(pose.tried)[0]);
    if (get().playing) measure("played", [frame, lateness()]);
    if (get().trial && !pose) measure("tried");
    measure("painted", performance.now() - began);
  }, [canvas, skin, resting]);
  const paint = useCallback(() => {
    asked.current = 0;
    const c = surface.current?.surface.getCanvas();
    carefully(draw);
    // What broke off in the middle left its turns and clips behind.
    c?.restoreToCount(1);
  }, [draw]);

  const again = useCallback(() => {
    if (!asked.current) asked.current = requestAnimationFrame(paint);
  }, [paint]);
  ask.current = again;

  // Before the page is painted: what lies over the stage is never seen in another place than the picture.
  useLayoutEffect(() => {
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

  useLayoutEffect(() => {
    let live = true;
    const element = canvas.current;
    if (!element || size[0] < 2) return;
    remake.current = () => {
      const ready = kit.current;
      if (!live || !ready) return;
      const ratio = fine * quality.current;
      ground.current.image?.delete();
      ground.current.image = null;
      skin.clear();
      resting.clear();
      surface.current?.close();
      element.width = Math.round(size[0] * ratio);
      element.height = Math.round(size[1] * ratio);
      surface.current = makeTarget(ready, element, ratio);
      cost.current = 0;
      again();
    };
    if (kit.current) {
      // A stage that changes its size is drawn anew at once.
      remake.current();
      cancelAnimationFrame(asked.current);
      paint();
    } else
      void painter().then((ready) => {
        kit.current = ready;
        remake.current();
      });
    const lose = () => {
      cardLost();
      anew();
    };
    element.addEventListener("webglcontextlost", lose);
    return () => {
      live = false;
      element.removeEventListener("webglcontextlost", lose);
      cancelAnimationFrame(asked.current);
      asked.current = 0;
      ground.current.image?.delete();
      ground.current.image = null;
      skin.clear();
      resting.clear();
      surface.current?.close();
      surface.current = null;
    };
  }, [canvas, size, again, paint, skin, resting, fine, turn, anew]);

  useEffect(() => {
    const holder = {};
    let live = true;
    let timer = 0;
    // Art that could not be had is asked for again.
    const late = () => {
      if (live) timer = window.setTimeout(load, 2000);
    };
    const load = () => {
      clearTimeout(timer);
      const { plan, pose, bench } = get();
      const shot = bench === "shots" ? shown(get()) : null;
      const needed = shot ?? [...(pose?.drawn.items ?? plan?.drawn.items ?? []), ...(plan?.behind?.items ?? [])];
      const arts = new Set([...needed, ...((!shot && plan?.drawn.items) || [])].flatMap((i) => i.arts));
      void painter().then((p) => live && p.hold(holder, arts));
      void painter().then((p) => {
        if (live && !p.has(needed)) void p.prepare(needed).then(again, late);
      });
    };
    load();
    const end = subscribe((now, before) => {
      if (before.playing && !now.playing) {
        settled.current = quality.current;
        easy.current = { had: 0, wanted: EASY };
        if (quality.current < 1) {
          quality.current = 1;
          remake.current();
        }
      } else if (now.playing && !before.playing) {
        // As sharp as it could be last time, or as what stands still tells that it can be.
        const told = cost.current > BUDGET ? Math.max(LEAST, Math.sqrt(AIM / cost.current)) : 1;
        quality.current = Math.min(settled.current, told);
        if (quality.current < 1) remake.current();
      }
      const cast =
        others(now.shotPlan, before.shotPlan) ||
        [...(now.film?.shots ?? [])].some(([id, shot]) => others(shot, before.film?.shots.get(id)));
      if (now.plan !== before.plan || now.pose?.drawn.items !== before.pose?.drawn.items || cast) load();
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
        now.shotPlan !== before.shotPlan ||
        now.film !== before.film ||
        now.shifted !== before.shifted ||
        now.through !== before.through ||
        now.masked !== before.masked ||
        now.onion !== before.onion ||
        (now.onion.limb && now.joint !== before.joint) ||
        now.frame !== before.frame ||
        now.pieces !== before.pieces ||
        now.isolated !== before.isolated ||
        now.unseen !== before.unseen ||
        now.cropped !== before.cropped ||
        (now.isolated && now.joints !== before.joints) ||
        now.documents !== before.documents ||
        now.settled !== before.settled
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

/** The film, where it is looked at. */
const filmOf = (w: ReturnType<typeof get>): FilmPlan | null =>
  w.bench === "shots" && w.wholeFilm ? (w.film ?? NO_FILM) : null;
const NO_FILM: FilmPlan = {
  frames: 0,
  parts: [],
  shown: new Int16Array(0),
  there: new Float32Array(0),
  veil: new Float32Array(0),
  heard: [],
  shots: new Map(),
};

/** Whether everything was there that belongs in the picture which was just painted. */
function allThere(w: ReturnType<typeof get>, scene: Scene | null, ready: Painter): boolean {
  // A plan may still be on its way for what has changed since.
  if (w.settled < w.seq) return false;
  if (scene) {
    const of = w.plan?.target;
    const wanted = (of?.kind === "motion" && of.motion === w.motion) || (of?.kind === "rest" && of.puppet === w.puppet);
    const came = w.pose !== null || (w.plan?.here?.[w.frame] ?? 1) > 0;
    return wanted && came && ready.has(scene.frame.items) && (!scene.behind || ready.has(scene.behind.items));
  }
  const film = filmOf(w);
  if (film) return cameAt(film, w.frame) && ready.has(shown(w));
  const plan = w.bench === "shots" ? w.shotPlan : null;
  if (plan?.target.shot !== w.shot) return false;
  return plan.here[Math.min(w.frame, plan.frames - 1)] === 1 && ready.has(shown(w));
}

/** What is drawn of the shot, or of the film. */
function shown(w: ReturnType<typeof get>): ReturnType<typeof itemsIn> {
  const film = filmOf(w);
  if (film) return [...film.shots.values()].flatMap(itemsIn);
  return w.shotPlan ? itemsIn(w.shotPlan) : [];
}

/** Whether a shot has other items to draw than before. */
const others = (now: ShotPlan | null, before: ShotPlan | null | undefined): boolean =>
  now?.cels.some((c, n) => c.drawn.items !== before?.cels[n]?.drawn.items) ?? false;

/** A frame of a shot as the camera sees it, or the whole stage with the camera's frame where it is. */
function drawShot(
  ready: Painter,
  c: Canvas,
  ratio: number,
  { view, width, height }: Sheet,
  plan: NonNullable<ReturnType<typeof get>["shotPlan"]>,
  frame: number,
): void {
  const { through, masked, shifted, pose } = get();
  const at = Math.max(0, Math.min(frame, plan.frames - 1));
  const before = through ? undefined : inverse(viewAt(plan, at));
  onStage(c, ratio, view, () => {
    if (masked && through) c.clipRect(ready.kit.XYWHRect(0, 0, width, height), ready.kit.ClipOp.Intersect, true);
    drawCels(ready, c, plan, at, { before, shifted, pose });
  });
}
