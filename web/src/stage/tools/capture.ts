/**
 * Capturing: after a count-in the pointer's way is recorded while everything else plays. The pose under the hand
 * is the core's answer; what is sent in the end is the raw recording.
 */
import {
  drag,
  frameRate,
  freshId,
  get,
  grab,
  motionOf,
  putBack,
  puppetOf,
  stop,
  submitTried,
  see,
  turnTo,
  tryOut,
  pickOut,
} from "../../session";
import { ROOT, type Point } from "../../wire/types";
import { Newest, type Drag, type Hand, type Tool } from "../tool";

/** Milliseconds of a count. */
const COUNT = 450;

export type Sample = [time: number, x: number, y: number];

/** What the hand did, a sample for every moment that is later than the last. */
export class Recording {
  readonly samples: Sample[] = [];

  /** `time` is in frames since the recording began, at full speed. */
  add(time: number, [x, y]: Point): void {
    const last = this.samples.at(-1);
    const sample: Sample = [round(time, 4), round(x, 2), round(y, 2)];
    if (!last) this.samples.push([0, sample[1], sample[2]]);
    else if (sample[0] > last[0]) this.samples.push(sample);
  }
}

const round = (v: number, digits: number): number => Number(v.toFixed(digits));

export function captureTool(): Tool {
  return {
    begin(hand) {
      const { capture, joint } = get();
      if (!capture || (capture.what !== "whole" && !joint)) return null;
      stop();
      return recording(hand, capture.what === "whole" ? ROOT : joint!, capture.what === "turn" ? "turn" : "move");
    },
  };
}

function recording(closing: Hand, joint: string, pull: "turn" | "move"): Drag {
  const { capture, frame: start } = get();
  const perMillisecond = (frameRate(get()) * (capture!.speed / 100)) / 1000;
  const length = motionOf(get())?.length ?? 1;
  const tape = new Recording();
  const newest = new Newest();
  let at = closing.at;
  let began: number | null = null;
  let over = false;
  const counted = performance.now();

  const tick = (now: number): void => {
    if (over) return;
    if (began === null) {
      const left = (capture!.countIn ? 3 : 0) - Math.floor((now - counted) / COUNT);
      if (left > 0) {
        if (get().capture?.count !== left) see({ capture: { ...get().capture!, count: left } });
        requestAnimationFrame(tick);
        return;
      }
      began = now;
      see({ capture: { ...get().capture!, count: 0 }, playing: true });
    }
    const time = (now - began) * perMillisecond;
    tape.add(time, at);
    const frame = start + Math.floor(time);
    if (frame >= length) return finish();
    if (frame !== get().frame) turnTo({ frame });
    newest.ask(async () => {
      grab(frame, joint, null, pull, closing.at, {});
      const pose = await drag(at, false);
      if (pose && !over) tryOut({ pose });
    });
    requestAnimationFrame(tick);
  };

  const finish = (): void => {
    if (over) return;
    over = true;
    newest.forget();
    const { motion } = get();
    const { what } = capture!;
    const idle = { ...get().capture!, count: null };
    // What the hand left is seen until it is there.
    turnTo({ playing: false, frame: start, capture: idle, pose: get().pose });
    if (!motion || tape.samples.length < 2) return putBack();
    const id = freshId();
    const recipe = {
      kind: "capture" as const,
      id,
      name: `Capture of ${puppetOf(get())?.joints?.[joint]?.name ?? puppetOf(get())?.name ?? "it"}`.slice(0, 80),
      joint,
      what: what === "turn" ? ("turn" as const) : ("place" as const),
      samples: tape.samples,
      start,
    };
    void newest
      .still()
      .then(() => submitTried({ do: "do-recipe", motion, recipe }))
      .then((done) => pickOut(done ? { capture: null, recipe: id, pose: null } : { pose: null }));
  };

  requestAnimationFrame(tick);
  return {
    move(hand) {
      at = hand.at;
      if (began !== null) tape.add((performance.now() - began) * perMillisecond, at);
    },
    end: finish,
    cancel() {
      over = true;
      newest.forget();
      turnTo({
        playing: false,
        frame: start,
        ...(get().capture ? { capture: { ...get().capture!, count: null } } : {}),
      });
      putBack();
    },
  };
}
