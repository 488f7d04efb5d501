/** Sounds that come in from files. */
import { bringSound, frameRate, get, linesOf, pickOut } from "../session";

export const SOUNDS = "audio/*,video/*,.wav,.flac,.ogg,.mp3,.mp4,.mov,.webm,.mkv";

/** Bring sound files in as lines on a motion, the first where it stands, each further one after it. */
export async function bring(files: FileList | File[], motion: string): Promise<void> {
  let at = get().frame / frameRate(get());
  for (const file of files) {
    const voice = await bringSound(file, { motion, at: Math.round(at * 1000) / 1000 });
    if (!voice) return;
    const line = linesOf(get()).find((l) => l.voice.id === voice);
    pickOut({ line: line?.placed.id ?? null, entry: null });
    at += line?.voice.sound?.seconds ?? 0;
  }
}
