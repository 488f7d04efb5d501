/** The live socket: reconnects by itself and asks anew for what the page was watching. */
import { decode, encode } from "@msgpack/msgpack";
import type { FromService, ToService, Watch } from "./types";

export interface LiveEvents {
  message(message: FromService): void;
  /** The connection came or went. */
  open(open: boolean): void;
}

export class Live {
  private socket: WebSocket | null = null;
  private watched: Watch | null = null;
  private closed = false;
  private wait = 250;

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
    socket.onopen = () => {
      this.wait = 250;
      this.events.open(true);
      if (this.watched) this.send({ type: "watch", ...this.watched });
    };
    socket.onmessage = (event: MessageEvent<ArrayBuffer>) => this.events.message(decode(new Uint8Array(event.data)) as FromService);
    socket.onclose = (event) => {
      if (this.closed || event.code === 4004) return;
      this.events.open(false);
      setTimeout(() => !this.closed && this.connect(), this.wait);
      this.wait = Math.min(this.wait * 1.7, 3000);
    };
  }

  /** Follow a puppet at rest or a motion. */
  watch(watch: Watch): void {
    this.watched = watch;
    this.send({ type: "watch", ...watch });
  }

  send(message: ToService): void {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(encode(message));
  }

  close(): void {
    this.closed = true;
    this.socket?.close();
  }
}
