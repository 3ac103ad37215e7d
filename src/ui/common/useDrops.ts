import { useRef, useState } from 'react';
import type { DropzoneOptions } from 'react-dropzone';
import { packed } from './packed';

/** Dropped files that are not uploaded yet. */
export interface Drops {
  /** Rules whose order the user is asked for; null if it is clear. */
  readonly asked: readonly File[] | null;
  readonly drop: (files: readonly File[]) => Promise<void>;
  readonly reorder: (files: readonly File[]) => void;
  /** Uploads everything in its present order. */
  readonly accept: () => void;
  readonly cancel: () => void;
}

/**
 * Sorts and uploads dropped files, one drop after another. Several files of rules wait until their order is confirmed;
 * files dropped meanwhile join them.
 */
export function useDrops(send: (files: readonly File[]) => Promise<void>): Drops {
  const [asked, setAsked] = useState<readonly File[] | null>(null);
  /** A mirror of the state for callbacks between renders. */
  const waiting = useRef<{ rules: readonly File[]; others: readonly File[] } | null>(null);
  const sending = useRef<Promise<void>>(Promise.resolve());
  const ask = (rules: readonly File[], others: readonly File[]) => {
    waiting.current = { rules, others };
    setAsked(rules);
  };
  const hand = (files: readonly File[]) => {
    sending.current = sending.current.then(() => send(files)).catch(() => {});
    return sending.current;
  };
  const end = () => {
    const { rules, others } = waiting.current ?? { rules: [], others: [] };
    waiting.current = null;
    setAsked(null);
    return [...rules, ...others];
  };
  return {
    asked,
    drop: async (files) => {
      const { rules, others } = await packed(files);
      const before = waiting.current;
      if (before || rules.length > 1) {
        ask([...(before?.rules ?? []), ...rules], [...(before?.others ?? []), ...others]);
      } else await hand([...rules, ...others]);
    },
    reorder: (rules) => ask(rules, waiting.current?.others ?? []),
    accept: () => void hand(end()),
    cancel: () => void end(),
  };
}

type FilesOf = NonNullable<DropzoneOptions['getFilesFromEvent']>;

/**
 * The files of a drop or a choice, with paths. Folders are read by the File and Directory Entries API: the newer
 * handles omit names with a colon, which all seen messages of a Maildir have.
 */
export const filesOf: FilesOf = async (event) => {
  if (Array.isArray(event)) return Promise.all(event.map((handle) => handle.getFile()));
  if ('dataTransfer' in event && event.dataTransfer) {
    const items = Array.from(event.dataTransfer.items).filter(({ kind }) => kind === 'file');
    if (event.type !== 'drop') return items;
    // Entries are available only during the event.
    const given = items.map((item) => ({ entry: item.webkitGetAsEntry(), file: item.getAsFile() }));
    const found = await Promise.all(given.map(({ entry, file }) => (entry ? filesIn(entry) : file ? [file] : [])));
    return found.flat();
  }
  const { target } = event;
  return target instanceof HTMLInputElement ? Array.from(target.files ?? []) : [];
};

/** A file, or all files of a folder and the folders in it. */
async function filesIn(entry: FileSystemEntry): Promise<File[]> {
  // `isFile` distinguishes the two kinds of entries, which the types do not express.
  if (entry.isFile) {
    const file = await new Promise<File>((found, failed) => (entry as FileSystemFileEntry).file(found, failed));
    return [Object.defineProperty(file, 'path', { value: entry.fullPath })];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const files: File[] = [];
  for (;;) {
    // Each call returns some of the entries, and none at the end.
    const some = await new Promise<FileSystemEntry[]>((found, failed) => reader.readEntries(found, failed));
    if (some.length === 0) return files;
    for (const inner of some) for (const file of await filesIn(inner)) files.push(file);
  }
}
