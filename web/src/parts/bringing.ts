/** Bringing art in, from whatever bench, and what is said of it. */
import { get, importFiles, lookInto, notify, type Bringing, see } from "../session";
import { placeOf } from "../wire/http";
import { several } from "../ui/text";
import { figureAt } from "./naming";
import { addPuppet } from "./PuppetPicker";

export type Wish = Pick<Bringing, "purpose" | "target" | "chosen"> & {
  /** Ask first what becomes a piece. */
  pick?: boolean;
};

/** Bring files in, and ask about what there is to ask. */
export async function bring(files: File[], { pick = false, ...wish }: Wish = {}, loose = false): Promise<void> {
  if (!files.length) return;
  const puppet = get().puppet ?? (await addPuppet(figureAt(files.map(placeOf))));
  if (!puppet) return;
  const bringing: Bringing = { puppet, loose, ...wish };
  if (pick) return choose(files[0]!, bringing);
  const renewing = wish.purpose === "new-version";
  // A new version is looked at before it is taken: it changes what is there.
  const report = await importFiles(files, { ...bringing, dry: renewing });
  if (!report) return;
  // Where it is one piece whatever is chosen, there is nothing to choose.
  if (report.offer === 1 && !loose) return bring(files, wish, true);
  // Where names say nothing of one drawing, its parts are shown.
  if (report.offer && files.length === 1 && (wish.purpose ?? "pieces") === "pieces") return choose(files[0]!, bringing);
  if (renewing || report.offer || report.notes.length || report.views?.length)
    see({ brought: { files, bringing, report } });
  else if (wish.purpose === "reference")
    notify(true, "Laid under the work", `${several(report.pieces.length, "picture")}. It is never rendered.`);
  else
    notify(
      true,
      "Brought in",
      `${several(report.pieces.length, wish.purpose === "drawings" ? "drawing" : "piece")}: ${report.pieces.slice(0, 6).join(", ")}${report.pieces.length > 6 ? "…" : ""}${report.sized ? `. ${report.sized}` : ""}`,
    );
}

/** Show the parts of a drawing, to choose from. */
async function choose(file: File, bringing: Bringing): Promise<void> {
  const found = await lookInto(file);
  if (found) see({ choosing: { file, bringing, found } });
}
