/**
 * A session: one open production, from entering to leaving. It owns the documents, the outbox, the
 * socket, the plan, what is tried, the selection, the clock and the notices; nothing outlives it.
 * Nothing here computes a pose; it keeps what came over the wire.
 */
import { createStore, type StoreApi } from "zustand/vanilla";
import * as http from "../wire/http";
import { uniqueId } from "../wire/ids";
import { Live } from "../wire/live";
import type {
  Ack,
  Command,
  DrawingParts,
  FromPage,
  Lately,
  Point,
  Pull,
  Report,
  SoundReport,
  Target,
  ToPage,
  TouchUp,
  Used,
  Using,
  WholeDocuments,
} from "../wire/types";
import { Clock } from "./clock";
import { Sounding } from "./sounding";
import { begun, taken, type Change } from "./documents";
import { Keeping } from "./lately";
import { makeNotices } from "./notices";
import { Outbox } from "./outbox";
import { cardsFrom, floats, planFrom, poseFrom, trialFrom, withPart, type Pose, type Trial } from "./plan";
import { morphFrom, type Asked, type Becoming } from "./morphs";
import { Questions } from "./questions";
import { filmFrom, partAt, withoutShots, withShot } from "./film";
import { spacedFrom } from "./spacing";
import { shotFrom, withChanged, withShotPart, type ShotPlan } from "./shotPlan";
import { blank, following, tidied, type Bringing, type State } from "./state";

/** Where a sound that is brought in belongs: on a motion or in a shot at a time, or as the sound of a line. */
export type Into = { motion: string; at: number } | { shot: string; at: number; row: number } | { voice: string };

/** After so many milliseconds a try is let go although the plan has not been heard to catch up. */
const LONG_ENOUGH = 4000;

/** Things left out of a production that are told one by one. */
const MOST_TOLD = 12;

/** What one of a shot's cast shows. */
const itemsOf = (plan: ShotPlan | null, cast: string | null | undefined) =>
  plan?.cels.find((c) => c.cast === cast)?.drawn.items;

export class Session {
  readonly store: StoreApi<State>;
  readonly clock: Clock;
  readonly sounding: Sounding;
  readonly notices = makeNotices();
  /** Which window this is, for the service to tell it from others. */
  readonly window = uniqueId();
  /** The change that brings in what is being read. */
  private errand: string | null = null;
  private readonly questions = new Questions<Pose | Trial | Becoming>((waiting) =>
    document.documentElement.toggleAttribute("data-asking", waiting),
  );
  private readonly outbox = new Outbox({
    saved: (saved) => this.set({ saved }),
    away: () => this.set({ database: false }),
  });
  private readonly live: Live;
  private readonly keeping: Keeping;
  /** Where one was last; nothing if that can't be told. */
  private readonly lately: Promise<Lately | null>;
  /** The number of the trial going on: answers to an earlier one come too late. */
  private trial = 0;
  private readonly waiting: { seq: number; go: () => void }[] = [];

  constructor(readonly id: string) {
    this.store = createStore<State>(() => blank(id));
    this.sounding = new Sounding();
    this.clock = new Clock(this, this.sounding);
    this.live = new Live(id, {
      message: (message) => this.hear(message),
      open: (connected, answers) => {
        // Of the database of a service that is not there nothing is known.
        this.set(answers ? { connected } : { connected, database: true });
        if (!connected) this.unanswered();
      },
    });
    void this.listRenders();
    this.keeping = new Keeping(id, this.get);
    this.lately = http.lately(id).catch(() => null);
    this.store.subscribe((now, before) => {
      const { puppet, motion, shot, frame } = before;
      if (now.puppet !== puppet || now.motion !== motion || now.shot !== shot || now.frame !== frame)
        this.keeping.moved();
      if (now.bench !== before.bench) this.notices.past();
      if (now.frame === before.frame) return;
      // Of a very long motion what is looked at comes first.
      if (now.bench !== "shots" && now.plan?.here && !now.plan.here[now.frame])
        this.live.send({ type: "playhead", frame: now.frame });
      if (!now.wholeFilm || !now.film) return;
      // The shots about the playhead come first: it is told whenever it comes into another.
      if (partAt(now.film, now.frame) !== partAt(now.film, before.frame))
        this.live.send({ type: "playhead", frame: now.frame });
    });
  }

  readonly get = (): State => this.store.getState();
  readonly set = (given: Partial<State>): void => this.store.setState(following(this.get(), given));

  /** The production is left. What was changed is still sent to where it belongs; nothing else goes on. */
  close(): void {
    this.keeping.close();
    this.clock.stop();
    this.sounding.close();
    this.live.close();
    this.outbox.close();
    this.unanswered();
  }

  private unanswered(): void {
    this.questions.abandon();
    for (const { go } of this.waiting.splice(0)) go();
  }

  /** Says what of the production could not be read; the rest is here, and can be worked on. */
  private tellLeftOut(what: string[]): void {
    if (!what.length) return;
    const more = what.length > MOST_TOLD ? [`And ${what.length - MOST_TOLD} more.`] : [];
    const text = "An earlier version kept what can't be read any more. The rest is as it was.";
    this.notices.notify(false, "Opened, but not all of it", text, [...what.slice(0, MOST_TOLD), ...more], true);
  }

  /** The bench opens where one was last; what is gone since is left out. */
  private async begin(): Promise<void> {
    const last = await this.lately;
    if (this.get().ready) return;
    if (last) {
      const { puppet, motion, shot, frame = 0 } = last;
      this.set({ puppet, motion, shot });
      this.set(tidied(this.get()));
      const now = this.get();
      if (now.puppet === puppet && now.motion === motion && now.shot === shot) this.clock.goTo(frame);
    }
    this.set({ ready: true });
  }

  private async listRenders(): Promise<void> {
    try {
      const all = await http.patiently(() => http.renders(this.id));
      // What the socket told of meanwhile is newer.
      this.set({ renders: { ...Object.fromEntries(all.map((r) => [r.id, r])), ...this.get().renders } });
    } catch {
      // A production that is gone says so over the socket.
    }
  }

  /* What the service says. */

  private hear(message: ToPage): void {
    const now = this.get();
    switch (message.type) {
      case "snapshot":
        this.set({
          ...begun({ ...message, documents: message.documents as WholeDocuments }),
          settled: message.seq,
          database: true,
        });
        this.set(tidied(this.get()));
        this.tellLeftOut(message.left_out ?? []);
        if (!this.get().ready) void this.begin();
        return;
      case "changed":
        this.take(message);
        return;
      case "plan":
        // At rest there is one frame; where the motion stands is not touched by looking at it.
        this.set({
          plan: planFrom(message),
          ...(message.target.kind === "motion" ? { frame: Math.min(now.frame, message.frames - 1) } : {}),
        });
        return;
      case "part":
        if (now.plan) this.set({ plan: withPart(now.plan, message) });
        return;
      case "shot": {
        const [shown, wanted] = [message.target.shot, now.shot];
        if (now.wholeFilm) {
          if (now.film) this.set({ film: withShot(now.film, shown, shotFrom(message)) });
        } else if (shown === wanted)
          this.set({ shotPlan: shotFrom(message), shifted: null, frame: Math.min(now.frame, message.frames - 1) });
        return;
      }
      case "shot-part":
        this.toShot(message.shot, (plan) => withShotPart(plan, message));
        return;
      case "shot-changed":
        this.toShot(message.shot, (plan) => withChanged(plan, message));
        return;
      case "film": {
        const film = filmFrom(message, now.film);
        // Coming from a shot, the film is looked at where that shot was.
        const from = now.film ? undefined : film.parts.find((p) => p.shot === now.shot);
        const frame = from ? from.start + Math.max(0, Math.min(now.frame - from.first, from.frames - 1)) : now.frame;
        if (now.wholeFilm) this.set({ film, frame: Math.min(frame, film.frames - 1) });
        return;
      }
      case "film-less":
        if (now.film) this.set({ film: withoutShots(now.film, message.shots) });
        return;
      case "rig":
        this.set({ rig: message });
        return;
      case "motion-report": {
        const before = now.report?.motion === message.motion ? now.report : null;
        const feet = { ...before?.feet };
        for (const [joint, foot] of Object.entries(message.feet))
          feet[joint] = { slide: floats(foot.slide), stands: foot.stands.slice() };
        const findings = message.findings ?? before?.findings ?? [];
        const beside = message.beside ?? before?.beside ?? {};
        const told = message.tangles as Record<string, Uint8Array> | null | undefined;
        const tangles = told
          ? Object.fromEntries(Object.entries(told).map(([id, data]) => [id, floats(data)]))
          : (before?.tangles ?? {});
        const { motion, ground, slides } = message;
        this.set({ report: { motion, ground, slides, feet, findings, beside, tangles } });
        return;
      }
      case "mesh":
        this.set({
          mesh: {
            piece: message.piece,
            joint: message.joint,
            vertices: floats(message.vertices),
            triangles: new Int32Array(message.triangles.slice().buffer),
            weights: message.weights ? floats(message.weights) : null,
          },
        });
        return;
      case "import":
        if (message.window === this.window && now.importing !== null) this.set({ importing: message.part });
        return;
      case "aligning": {
        const listening = { ...now.listening };
        if (message.over) delete listening[message.voice];
        else listening[message.voice] = { part: message.part ?? 0, what: message.what ?? "" };
        this.set({ listening });
        const voice = now.documents[message.voice];
        const name = voice?.kind === "voice" ? voice.name : "The line";
        if (message.over === "done") {
          if (message.message) this.notices.notify(true, name, message.message);
        } else if (message.over === "refused" || message.over === "failed")
          this.notices.notify(false, `${name}: no chart`, message.message ?? "");
        return;
      }
      case "spacing": {
        const spacing = { ...now.spacing };
        for (const [id, view] of Object.entries(message.channels)) spacing[id] = spacedFrom(view);
        for (const id of message.gone) delete spacing[id];
        this.set({ spacing });
        return;
      }
      case "pose":
        this.questions.settle(message.n, poseFrom(message, now.plan, itemsOf(now.shotPlan, message.cast)));
        return;
      case "morph":
        this.questions.settle(message.n, morphFrom(message));
        return;
      case "cards":
        this.set({ cards: cardsFrom(message, now.plan) });
        return;
      case "way":
        this.set({ way: { joint: message.joint, keys: message.keys } });
        return;
      case "tried":
        this.questions.settle(message.n, trialFrom(message, now.plan));
        return;
      case "passed-over":
        this.questions.pass(message.n);
        return;
      case "grabbed":
        this.set({ joint: message.joint });
        return;
      case "settled":
        this.set({ settled: message.seq });
        for (const w of this.waiting.filter((w) => w.seq <= message.seq)) {
          this.waiting.splice(this.waiting.indexOf(w), 1);
          w.go();
        }
        return;
      case "render":
        this.set({ renders: { ...now.renders, [message.render.id]: message.render } });
        return;
      case "database":
        this.set({ database: message.here });
        return;
      case "refused":
        if (message.n != null) this.questions.settle(message.n, null);
        // What refuses to be opened at all is not there.
        if (now.seq < 0) {
          this.set({ gone: true });
          return;
        }
        this.notices.notify(false, "That can't be done", message.what, [message.remedy].filter(Boolean));
        return;
      case "removed":
        this.set({ gone: true });
        return;
      case "gone":
        this.set({ plan: null, pose: null, shotPlan: null, film: null });
    }
  }

  /** Something new of a shot, which is watched by itself or in the film. */
  private toShot(id: string, change: (plan: ShotPlan) => ShotPlan): void {
    const { film, wholeFilm, shotPlan } = this.get();
    const inFilm = film?.shots.get(id);
    if (wholeFilm && inFilm) this.set({ film: withShot(film!, id, change(inFilm)) });
    else if (!wholeFilm && shotPlan?.target.shot === id) this.set({ shotPlan: change(shotPlan), shifted: null });
  }

  private take(change: Change): void {
    const now = this.get();
    const { documents, seq, undo, redo, early } = taken(now, change);
    this.set({ documents, seq, undo, redo, early });
    if (seq !== now.seq) this.set(tidied(this.get()));
  }

  private acknowledge(ack: Ack): void {
    this.set({ database: true });
    if (ack.seq) this.take(ack);
  }

  /** Follow something to look at. */
  watch(target: Target): void {
    const shotPlan =
      target.kind === "shot" && this.get().shotPlan?.target.shot === target.shot ? this.get().shotPlan : null;
    const film = target.kind === "film" ? this.get().film : null;
    // Where a shot is looked at, no puppet can be asked about by itself.
    const plan = target.kind === "shot" || target.kind === "film" ? null : this.get().plan;
    // An answer that is under way belongs to what was looked at.
    this.trial++;
    this.set({ pose: null, trial: null, cards: null, spacing: {}, mesh: null, report: null, plan, shotPlan, film });
    this.live.watch({ type: "watch", target, frame: target.kind === "rest" ? 0 : this.get().frame });
  }

  /* Changes. */

  /** Make a change. Resolves once it is on disk; false if it was refused (the user is told why). */
  async submit(command: Command): Promise<boolean> {
    return (await this.made(command)) !== null;
  }

  /** Make a change. Resolves with what the service says of it once it is on disk, or null if it was refused. */
  made(command: Command): Promise<Ack | null> {
    // Production and base are those that the user saw when acting, however long the change waits.
    const change = { id: uniqueId(), window: this.window, base: Math.max(0, this.get().seq), command };
    const told = this.notices.newest();
    return this.outbox.put(async () => {
      try {
        const ack = await this.outbox.insist(() => http.sendChange(this.id, change));
        this.acknowledge(ack);
        this.notices.past(told);
        return ack;
      } catch (error) {
        this.notices.tell(error);
        return null;
      }
    });
  }

  /** Make a change and keep showing the tried pose until the plan has caught up with it. */
  async submitTried(command: Command): Promise<boolean> {
    return (await this.madeTried(command)) !== null;
  }

  /** The same. Resolves with what the service says of it, or null if it was refused. */
  async madeTried(command: Command): Promise<Ack | null> {
    const shown = this.get().pose;
    // What was asked before must not come back on the stage once this is made.
    this.trial++;
    const ack = await this.made(command);
    if (ack?.seq) await this.caughtUp(ack.seq);
    // A pose that was tried since is another matter.
    if (this.get().pose === shown) this.set({ pose: null, trial: null });
    return ack;
  }

  /** Once what is shown has come after a change, or after all that is known: what is tried then is tried on it. */
  caughtUp(seq = this.get().seq): Promise<void> {
    if (this.get().settled >= seq || !this.get().connected) return Promise.resolve();
    return new Promise((go) => {
      this.waiting.push({ seq, go });
      setTimeout(go, LONG_ENOUGH);
    });
  }

  /** Undo or redo what the user sees that it would touch. */
  turn(way: "undo" | "redo"): Promise<void> {
    const id = uniqueId();
    const told = this.notices.newest();
    return this.outbox.put(async () => {
      const step = this.get()[way];
      if (!step) return;
      try {
        this.acknowledge(
          await this.outbox.insist(() => http.sendTurn(this.id, way, { id, window: this.window, target: step.seq })),
        );
        this.notices.past(told);
      } catch (error) {
        this.notices.tell(error);
      }
    });
  }

  importFiles(
    files: File[],
    { puppet, loose = false, purpose = "pieces", target = "", dry = false, chosen }: Bringing,
  ): Promise<Report | null> {
    const parts: Record<string, string> = chosen ? { chosen: JSON.stringify(chosen) } : {};
    const more = { puppet, loose: String(loose), purpose, target, dry: String(dry), ...parts };
    return this.brought(async (fields) => {
      const report = await http.importArt(this.id, files, { ...fields, ...more });
      if (report.ack) this.acknowledge(report.ack);
      return report;
    });
  }

  /** The parts of a drawing. */
  lookInto(file: File): Promise<DrawingParts | null> {
    return this.brought(({ change, window }) => http.lookInto(this.id, file, { change, window }));
  }

  /** Give up what is being brought in. */
  async stopImport(): Promise<void> {
    const { errand } = this;
    try {
      if (errand) await http.cancelImport(this.id, errand);
    } catch (error) {
      this.notices.tell(error);
    }
  }

  /** Bring a sound in: as a new line on a motion, or as the new sound of one. Resolves with its id. */
  bringSound(file: File, into: Into): Promise<SoundReport | null> {
    const where = Object.fromEntries(Object.entries(into).map(([name, value]) => [name, String(value)]));
    return this.brought(async (fields) => {
      const report = await http.bringSound(this.id, file, { ...fields, ...where });
      this.acknowledge(report.ack);
      if (report.notes.length) this.notices.notify(true, file.name, report.notes.join(" "));
      return report;
    });
  }

  /** Read a line's chart from a file. */
  bringChart(voice: string, file: File): Promise<boolean | null> {
    return this.brought(async (fields) => {
      this.acknowledge(await http.bringChart(this.id, voice, file, fields));
      return true;
    });
  }

  /** Let the film be as a timeline says. */
  bringTimeline(file: File): Promise<boolean | null> {
    return this.brought(async (fields) => {
      this.acknowledge(await http.bringTimeline(this.id, file, fields));
      return true;
    });
  }

  /** Bring something in, as a change of its own that can be cancelled while it is read. */
  private brought<T>(work: (fields: Record<"change" | "window" | "base", string>) => Promise<T>): Promise<T | null> {
    const change = uniqueId();
    const base = String(Math.max(0, this.get().seq));
    return this.outbox.errand(async () => {
      this.set({ importing: 0 });
      this.errand = change;
      try {
        return await work({ change, window: this.window, base });
      } catch (error) {
        // Whoever cancelled it knows.
        if (!(error instanceof http.ServiceError && error.problem.kind === "cancelled")) this.notices.tell(error);
        return null;
      } finally {
        this.errand = null;
        this.set({ importing: null });
      }
    });
  }

  /** Begin to find the sounds of a line, or with `spread` to lay its text out over what is heard. */
  async listen(voice: string, text: string, language: string, spread: boolean): Promise<void> {
    this.set({ listening: { ...this.get().listening, [voice]: { part: 0, what: "Waiting" } } });
    try {
      await http.align(this.id, voice, text, language, spread);
    } catch (error) {
      const listening = { ...this.get().listening };
      delete listening[voice];
      this.set({ listening });
      this.notices.tell(error);
    }
  }

  async stopListening(voice: string): Promise<void> {
    try {
      await http.cancelAlign(this.id, voice);
    } catch (error) {
      this.notices.tell(error);
    }
  }

  /* Tries: asked over the live socket, answered by the core. Null: refused, passed over, or no connection. */

  private async ask(letter: (n: number) => FromPage): Promise<Pose | null> {
    const same = this.sameTrial();
    const pose = await this.questions.ask((n) => this.live.send(letter(n)));
    return same() ? (pose as Pose | null) : null;
  }

  /** Whether what is tried now still is, when that is asked: nothing was put back, made or watched since. */
  sameTrial(): () => boolean {
    const { trial } = this;
    return () => trial === this.trial;
  }

  /** Put back what is tried. What was asked for until now comes too late. */
  putBack(): void {
    this.trial++;
    this.set({ pose: null, trial: null });
  }

  /** Close the hand on a joint. */
  grab(
    frame: number,
    joint: string,
    piece: string | null,
    pull: Pull,
    at: Point,
    tried: Record<string, number[]>,
    cast: string | null = null,
  ): void {
    const { snap, limbBegins, bench } = this.get();
    // It is chosen, and marked, on the Motion bench alone.
    const begins = bench === "motion" ? limbBegins : null;
    this.live.send({ type: "grab", frame, joint, piece, pull, at, tried, snap, begins, cast });
  }

  /** The pose that a hand's place makes, once `grab` has closed on a joint. */
  drag(at: Point, wholeSteps: boolean): Promise<Pose | null> {
    return this.ask((n) => ({ type: "drag", n, at, whole_steps: wholeSteps }));
  }

  tryPose(frame: number, tried: Record<string, number[]>): Promise<Pose | null> {
    return this.ask((n) => ({ type: "try-pose", n, frame, tried }));
  }

  /** The puppet at rest with nothing but these values, for as long as somebody looks (`live`). */
  async lookAtRest(tried: Record<string, number[]>, live: () => boolean): Promise<Pose | null> {
    const send = (n: number) => this.live.send({ type: "try-pose", n, frame: 0, tried, at_rest: true });
    return (await this.questions.inTurn(send, live)) as Pose | null;
  }

  tryCommand(command: Command, frame = 0): Promise<Pose | null> {
    return this.ask((n) => ({ type: "try-command", n, command, frame }));
  }

  /** Every frame of the motion as a command would leave it. */
  async tryWhole(command: Command): Promise<Trial | null> {
    const same = this.sameTrial();
    const found = await this.questions.ask((n) => this.live.send({ type: "try-command", n, command, whole: true }));
    return same() ? (found as Trial | null) : null;
  }

  /** How one of a piece's drawings becomes another. */
  async askMorph(asked: Asked): Promise<Becoming | null> {
    const found = await this.questions.ask((n) => this.live.send({ type: "look-at-morph", n, ...asked }));
    return found as Becoming | null;
  }

  /** Make in-betweens drawings of the piece, and key them where they are seen. */
  keepBetweens(piece: string, frames: number[], then: "hold" | "morph"): Promise<boolean | null> {
    const { motion, seq } = this.get();
    if (!motion) return Promise.resolve(null);
    const asked = { motion, piece, frames, then, change: uniqueId(), window: this.window };
    return this.brought(async () => {
      this.acknowledge(await http.keepBetweens(this.id, { ...asked, base: Math.max(0, seq) }));
      return true;
    });
  }

  /** Give a piece a drawing of its own in a view in the mirror, the right way round. */
  drawRightWayRound(of: { puppet: string; dial: string; at: number; piece: string }): Promise<boolean | null> {
    const asked = { ...of, change: uniqueId(), window: this.window };
    return this.brought(async () => {
      this.acknowledge(await http.drawRightWayRound(this.id, { ...asked, base: Math.max(0, this.get().seq) }));
      return true;
    });
  }

  /** Use a puppet, a rig or motions again, and look at what came of it. */
  reuse(asked: Omit<Using, "change" | "window" | "base">): Promise<Used | null> {
    return this.brought(async ({ change, window, base }) => {
      const used = await http.reuse(this.id, { ...asked, change, window, base: Number(base) });
      this.acknowledge(used.ack);
      return used;
    });
  }

  /** Split a piece into its parts, or join pieces into the first. */
  part(way: "split" | "join", pieces: string[]): Promise<boolean | null> {
    const { puppet } = this.get();
    if (!puppet) return Promise.resolve(null);
    const asked = { puppet, pieces, change: uniqueId(), window: this.window };
    return this.brought(async () => {
      this.acknowledge(await http.part(this.id, way, { ...asked, base: Math.max(0, this.get().seq) }));
      return true;
    });
  }

  /** Touch up a drawing; what it was stays. Strokes go out one after the other. */
  touchUp(of: { puppet: string; piece: string; drawing: string; touch: TouchUp }): Promise<boolean> {
    const change = uniqueId();
    return this.outbox.errand(async () => {
      const base = Math.max(0, this.get().seq);
      try {
        this.acknowledge(await http.touchUp(this.id, { ...of, change, window: this.window, base }));
        return true;
      } catch (error) {
        this.notices.tell(error);
        return false;
      }
    });
  }

  /** Ask for the keys on a joint's path, and for them again whenever they change; for none with null. */
  lookAtWay(joint: string | null): void {
    this.set({ way: null });
    this.live.send({ type: "look-at-way", joint });
  }

  /** Ask for the mesh of a piece that bends, with the weights of one joint. */
  lookAtMesh(piece: string, joint: string | null): void {
    this.live.send({ type: "look-at-mesh", piece, joint });
  }
}
