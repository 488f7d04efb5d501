import type { Drawing, Piece } from "../wire/types";

/** The drawing that a piece shows at rest. */
export const shownDrawing = (piece: Piece): Drawing =>
  piece.drawings.find((d) => d.id === piece.shows) ?? piece.drawings[0]!;
