import { freshId, submit } from "../session";
import type { Drawing, Piece, Puppet } from "../wire/types";

/** The drawing that a piece shows at rest. */
export const shownDrawing = (piece: Piece): Drawing =>
  piece.drawings.find((d) => d.id === piece.shows) ?? piece.drawings[0]!;

/** Copy the drawing that a piece shows, next to it; the copy shows then. */
export function copyDrawing(puppet: Puppet, piece: Piece): void {
  const drawing = shownDrawing(piece).id;
  void submit({ do: "copy-drawing", puppet: puppet.id, piece: piece.id, drawing, id: freshId() });
}
