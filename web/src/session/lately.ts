/** Where one works in a production: it opens there again, here or on another machine. */
import * as http from "../wire/http";
import type { Lately } from "../wire/types";
import type { State } from "./state";

/** Milliseconds that one stays somewhere before it is kept. */
const STAYS = 1500;

const placeIn = ({ puppet, motion, shot, frame }: State): Lately => ({ puppet, motion, shot, frame });

/** Keeps where one works. While it plays one works nowhere else. */
export class Keeping {
  private kept: string | null = null;
  private waiting: ReturnType<typeof setTimeout> | undefined;
  private readonly leaving = () => this.send(true);

  constructor(
    private readonly id: string,
    private readonly get: () => State,
  ) {
    window.addEventListener("pagehide", this.leaving);
  }

  /** Something changed that is looked at, or its frame. */
  moved(): void {
    const now = this.get();
    if (!now.ready || now.playing) return;
    clearTimeout(this.waiting);
    this.waiting = setTimeout(() => this.send(false), STAYS);
  }

  close(): void {
    window.removeEventListener("pagehide", this.leaving);
    this.send(true);
  }

  private send(last: boolean): void {
    clearTimeout(this.waiting);
    const now = this.get();
    const place = placeIn(now);
    const text = JSON.stringify(place);
    if (!now.ready || now.gone || text === this.kept) return;
    this.kept = text;
    // It is only a help: where it can't be kept nothing is lost.
    void http.putLately(this.id, place, last).catch(() => undefined);
  }
}
