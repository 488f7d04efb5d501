/** Bringing art in: by button or by dropping files and folders. */
import { useRef, type ReactNode } from "react";
import { setPlace } from "../wire/http";
import { bring, type Wish } from "./bringing";

export interface Importing {
  bring: (files: File[], wish?: Wish) => void;
  drop: (data: DataTransfer) => void;
  choose: (wish?: Wish) => void;
  chooseFolder: () => void;
  parts: ReactNode;
}

export function useImport(): Importing {
  const input = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const wished = useRef<Wish>({});

  const chosen = (element: HTMLInputElement) => {
    void bring([...(element.files ?? [])].filter(wanted), wished.current);
    element.value = "";
  };

  const parts = (
    <>
      <input
        ref={input}
        type="file"
        multiple
        accept=".svg,.svgz,.ora,.png,.jpg,.jpeg,.webp,.mp4,.m4v,.mov,.webm,.mkv,.avi,.gif,image/svg+xml,image/openraster,image/png,image/jpeg,image/webp,video/*"
        className="visually-hidden-file"
        tabIndex={-1}
        aria-label="Art to bring in"
        onChange={(e) => chosen(e.target)}
      />
      <input
        ref={folder}
        type="file"
        {...{ webkitdirectory: "" }}
        className="visually-hidden-file"
        tabIndex={-1}
        aria-label="Folder of pictures to bring in"
        onChange={(e) => chosen(e.target)}
      />
    </>
  );
  return {
    bring: (files, wish) => void bring(files.filter(wanted), wish),
    drop: (data) => void dropped(data).then((files) => bring(files.filter(wanted))),
    choose: (wish = {}) => {
      wished.current = wish;
      input.current?.click();
    },
    chooseFolder: () => {
      wished.current = {};
      folder.current?.click();
    },
    parts,
  };
}

/** What is art in a folder. */
const ART = /\.(svgz?|ora|png|jpe?g|webp)$/i;

/** Folders hold much that is no art; a file chosen by itself is always tried. */
const wanted = (file: File, _: number, all: File[]): boolean =>
  (all.length === 1 && !file.webkitRelativePath) || ART.test(file.name) || !file.webkitRelativePath;

/** Dropped files, those in dropped folders among them, each remembering where it lay. */
async function dropped(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry?.()).filter((e) => e !== null && e !== undefined);
  if (!entries.some((e) => e.isDirectory)) return [...data.files];
  const files: File[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((done, failed) => (entry as FileSystemFileEntry).file(done, failed));
      if (!ART.test(file.name)) return;
      setPlace(file, entry.fullPath.replace(/^\//, ""));
      files.push(file);
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const inside = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed));
      if (!inside.length) return;
      for (const e of inside) await walk(e);
    }
  };
  for (const entry of entries) await walk(entry);
  return files;
}
