/**
 * Drawing a frame of the film: its shots over one another, and the colour of a fade. `Surface.draw` of
 * `sorvan/picture/paint.py` does the same; a test holds the two together.
 */
import type { Canvas } from "canvaskit-wasm";
import { sheetsAt, type FilmPlan } from "../session/film";
import { drawCels } from "./cels";
import type { Painter } from "./painter";

/** Draw a frame of the film; the canvas is in units of the picture, `width` × `height` of them. */
export function drawFilm(
  painter: Painter,
  canvas: Canvas,
  film: FilmPlan,
  frame: number,
  [width, height]: readonly [number, number],
  paper: string,
): void {
  const { kit } = painter;
  const picture = kit.XYWHRect(0, 0, width, height);
  const filled = (colour: Float32Array) => {
    const paint = new kit.Paint();
    paint.setColor(colour);
    canvas.drawRect(picture, paint);
    paint.delete();
  };
  canvas.save();
  canvas.clipRect(picture, kit.ClipOp.Intersect, true);
  for (const sheet of sheetsAt(film, frame)) {
    const plan = film.shots.get(sheet.part.shot);
    if (sheet.opacity < 1) {
      const paint = new kit.Paint();
      paint.setAlphaf(sheet.opacity);
      canvas.saveLayer(paint, picture);
      paint.delete();
    }
    filled(painter.colour(paper));
    if (plan) drawCels(painter, canvas, plan, sheet.frame);
    if (sheet.opacity < 1) canvas.restore();
  }
  const at = Math.max(0, Math.min(frame, film.frames - 1)) * 4;
  if (film.veil[at + 3]! > 0) filled(film.veil.slice(at, at + 4));
  canvas.restore();
}
