/** Which surface the stage draws on: the graphics card where there is a real one, else software. */
import type { Surface } from "canvaskit-wasm";
import { keep, kept } from "../kept";
import type { Painter } from "./painter";

export type Drawing = "auto" | "card" | "software";
const KEY = "drawing";

/** What the address asks for (`?software`, `?card`), else what the user chose, else automatic. */
export function chosenDrawing(): Drawing {
  const asked = new URLSearchParams(location.search);
  if (asked.has("software")) return "software";
  if (asked.has("card")) return "card";
  const chosen = kept(KEY);
  return chosen === "card" || chosen === "software" ? chosen : "auto";
}

export const chooseDrawing = (drawing: Drawing): void => keep(KEY, drawing);

let real: boolean | null = null;
let lost = false;

/** The graphics card was lost (asleep, driver begun anew, too many pages): from now on software draws. */
export function cardLost(): void {
  lost = true;
}

/** Whether WebGL runs on a card. Emulated on the processor it is slower than Skia's own software. */
function hasCard(): boolean {
  if (real === null) {
    const gl = document.createElement("canvas").getContext("webgl2");
    const info = gl?.getExtension("WEBGL_debug_renderer_info");
    const name = gl ? String(gl.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : gl.RENDERER)) : "";
    real = gl !== null && !/swiftshader|llvmpipe|softpipe|software|basic render/i.test(name);
    gl?.getExtension("WEBGL_lose_context")?.loseContext();
  }
  return real;
}

/** Something to draw on, and how what was drawn comes to be seen. */
export interface Target {
  surface: Surface;
  /** Pixels of the surface for one pixel of the page. */
  ratio: number;
  present(): void;
  close(): void;
}

/** A target on the canvas; falls back to software by itself when the card can't be had. */
export function makeTarget(painter: Painter, canvas: HTMLCanvasElement, ratio: number): Target | null {
  const drawing = chosenDrawing();
  if (!lost && (drawing === "card" || (drawing === "auto" && hasCard()))) {
    const target = cardTarget(painter, canvas, ratio);
    if (target) return target;
  }
  return softwareTarget(painter, canvas, ratio);
}

/** A surface on the graphics card, and the context that it lives in. */
function cardTarget({ kit }: Painter, canvas: HTMLCanvasElement, ratio: number): Target | null {
  const handle = kit.GetWebGLContext(canvas);
  const context = handle ? kit.MakeWebGLContext(handle) : null;
  if (!context) return null;
  const surface = kit.MakeOnScreenGLSurface(context, canvas.width, canvas.height, kit.ColorSpace.SRGB);
  const release = () => {
    context.delete();
    kit.deleteContext(handle);
  };
  if (!surface) {
    release();
    return null;
  }
  return {
    surface,
    ratio,
    present: () => surface.flush(),
    close() {
      // Nothing is asked of a card that is not there any more.
      if (lost) context.releaseResourcesAndAbandonContext();
      surface.delete();
      release();
    },
  };
}

/**
 * Premultiplied pixels in memory of our own. CanvasKit's ready-made software surface keeps straight
 * alpha, for which Skia has no fast paths; the stage is opaque all over, so there is no difference.
 */
function softwareTarget({ kit }: Painter, canvas: HTMLCanvasElement, ratio: number): Target | null {
  const { width, height } = canvas;
  const info = {
    width,
    height,
    colorType: kit.ColorType.RGBA_8888,
    alphaType: kit.AlphaType.Premul,
    colorSpace: kit.ColorSpace.SRGB,
  };
  const pixels = kit.Malloc(Uint8Array, width * height * 4);
  const surface = kit.MakeRasterDirectSurface(info, pixels, width * 4);
  const page = canvas.getContext("2d", { alpha: false });
  if (!surface || !page) {
    kit.Free(pixels);
    return null;
  }
  return {
    surface,
    ratio,
    present() {
      surface.flush();
      const bytes = pixels.toTypedArray() as Uint8Array<ArrayBuffer>;
      page.putImageData(
        new ImageData(new Uint8ClampedArray(bytes.buffer, bytes.byteOffset, bytes.length), width, height),
        0,
        0,
      );
    },
    close() {
      surface.delete();
      kit.Free(pixels);
    },
  };
}
