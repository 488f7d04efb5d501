/** The live socket: reconnects by itself and asks anew for what the page was watching. */
import { decode, encode } from "@msgpack/msgpack";
import { SIGNED_OUT } from "./http";
import type { FromPage, ToPage, Watch } from "./types";

export interface LiveEvents {
  message(message: ToPage): void;
  /** The connection came or went; or it could not be made, and nothing answers. */
  open(open: boolean, answers: boolean): void;
}

/** Close code of the service: there is no such production. */
const NO_SUCH = 4004;
/** And: whoever it is may not see it, or not any more. */
const SIGN_IN_FIRST = 4401;
/** Milliseconds after which a connection is first tried anew. */
const SOON = 250;

export class Live {
  private socket: WebSocket | null = null;
  private watched: Watch | null = null;
  private closed = false;
  private wait = SOON;

  constructor(
    private readonly production: string,
    private readonly events: LiveEvents,
  ) {
    this.connect();
  }

  private connect(): void {
    const address = `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/api/productions/${this.production}/live`;
    const socket = new WebSocket(address);
    socket.binaryType = "arraybuffer";
    this.socket = socket;
    let answered = false;
    socket.onopen = () => {
      answered = true;
      this.events.open(true, true);
      if (this.watched) this.send(this.watched);
    };
    socket.onmessage = (event: MessageEvent<ArrayBuffer>) => {
      const message = decode(new Uint8Array(event.data)) as ToPage;
      // One that is let go at once, since the database is away, is not to be tried for all the time.
      if (message.type !== "database") this.wait = SOON;
      if (!this.closed) this.events.message(message);
    };
    socket.onclose = (event) => {
      if (this.closed || event.code === NO_SUCH) return;
      if (event.code === SIGN_IN_FIRST) {
        // Either nobody is signed in any more, or the production is not shared any more.
        this.closed = true;
        this.events.message({ type: "removed" });
        window.dispatchEvent(new Event(SIGNED_OUT));
        return;
      }
      this.events.open(false, answered);
      setTimeout(() => !this.closed && this.connect(), this.wait);
      this.wait = Math.min(this.wait * 1.7, 3000);
    };
  }

  /** Follow a puppet at rest or a motion, now and after every reconnection. */
  watch(watch: Watch): void {
    this.watched = watch;
    this.send(watch);
  }

  /** Whether it could be sent: not while there is no connection. */
  send(message: FromPage): boolean {
    if (this.socket?.readyState !== WebSocket.OPEN) return false;
    this.socket.send(encode(message));
    return true;
  }

  close(): void {
    this.closed = true;
    this.socket?.close();
  }
}
