/** Sounds that come in from files. */
import { bringSound, frameRate, get, linesOf, notify, pickOut, see, type LongLine } from "../session";

export const SOUNDS = "audio/*,video/*,.wav,.flac,.ogg,.mp3,.mp4,.mov,.webm,.mkv";

/** Bring sound files in as lines on a motion, the first at its start, or at a frame, each further one after it. Says where
 * they are, and asks once whether the motion is to be as long as they need. */
export async function bring(files: FileList | File[], motion: string, frame = 0): Promise<void> {
  const rate = frameRate(get());
  let at = frame / rate;
  let needs: LongLine | null = null;
  for (const file of files) {
    const report = await bringSound(file, { motion, at: Math.round(at * 1000) / 1000 });
    if (!report) break;
    const line = linesOf(get()).find((l) => l.voice.id === report.voice);
    if (!line) continue;
    const { placed, voice } = line;
    pickOut({ line: placed.id, entry: null });
    notify(
      true,
      voice.name,
      `It begins at frame ${Math.round(at * rate) + 1}. Drag it on the ribbon to let it begin elsewhere.`,
    );
    if (report.needs) needs = { motion, sound: placed.id, name: voice.name, frames: report.needs };
    at += voice.sound?.seconds ?? 0;
  }
  if (needs) see({ longLine: needs });
}
