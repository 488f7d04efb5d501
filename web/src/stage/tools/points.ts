/** Editing the points of a shape drawn here: drag one, click the line to add one. */
import type { Command, Point } from "../../api/types";
import { get, puppetOf, set, submit, submitTried, tryCommand } from "../../state/workshop";
import { pick } from "../pick";
import { Newest, type Hand, type Tool } from "../tool";

export class PointsTool implements Tool {
  private held: number | null = null;
  private command: Command | null = null;
  private readonly newest = new Newest();

  constructor(private readonly choose: (point: number | null, at: Point | null) => void) {}

  begin(hand: Hand): boolean {
    const [kind, named] = hand.handle?.split(":") ?? [];
    const { puppet, pieces } = get();
    this.held = null;
    if (kind === "point") {
      this.held = Number(named);
      this.choose(this.held, null);
      return true;
    }
    if (kind === "edge" && puppet && pieces[0]) {
      void submit({ do: "edit-shape", puppet, piece: pieces[0], edit: "add", at: hand.at });
      return true;
    }
    const found = pick(hand.at, true);
    if (found && puppetOf(get())?.pieces?.[found]) set({ pieces: [found] });
    this.choose(null, null);
    return true;
  }

  move(hand: Hand): void {
    const { puppet, pieces } = get();
    if (this.held === null || !puppet || !pieces[0]) return;
    const command: Command = { do: "edit-shape", puppet, piece: pieces[0], edit: "move", point: this.held, at: hand.at };
    this.command = command;
    this.choose(this.held, hand.at);
    this.newest.ask((done) =>
      tryCommand(command, (pose) => {
        if (this.held !== null) set({ pose });
        done();
      }),
    );
  }

  end(_: Hand, moved: boolean): void {
    const held = this.held;
    this.held = null;
    this.newest.forget();
    if (moved && this.command) void submitTried(this.command).then(() => this.choose(held, null));
    this.command = null;
  }

  cancel(): void {
    this.held = null;
    this.command = null;
    this.newest.forget();
    set({ pose: null });
  }
}
