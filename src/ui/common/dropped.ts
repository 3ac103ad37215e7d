import type { DropzoneOptions } from 'react-dropzone';

type FilesOf = NonNullable<DropzoneOptions['getFilesFromEvent']>;

/**
 * The files of a drop or a choice, those of folders with their paths. A dropped folder is read by the entries of the File
 * and Directory Entries API: the newer handles leave out names with a colon, which all seen messages of a Maildir have.
 */
export const filesOf: FilesOf = async (event) => {
  if (Array.isArray(event)) return Promise.all(event.map((handle) => handle.getFile()));
  if ('dataTransfer' in event && event.dataTransfer) {
    const items = Array.from(event.dataTransfer.items).filter(({ kind }) => kind === 'file');
    if (event.type !== 'drop') return items;
    // Entries are to be had only before the event has gone by.
    const given = items.map((item) => ({ entry: item.webkitGetAsEntry(), file: item.getAsFile() }));
    const found = await Promise.all(given.map(({ entry, file }) => (entry ? filesIn(entry) : file ? [file] : [])));
    return found.flat();
  }
  const { target } = event;
  return target instanceof HTMLInputElement ? Array.from(target.files ?? []) : [];
};

/** A file, or all files of a folder and the folders in it. */
async function filesIn(entry: FileSystemEntry): Promise<File[]> {
  // `isFile` says which of the two kinds an entry is, which the declarations leave open.
  if (entry.isFile) {
    const file = await new Promise<File>((found, failed) => (entry as FileSystemFileEntry).file(found, failed));
    return [Object.defineProperty(file, 'path', { value: entry.fullPath })];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const files: File[] = [];
  for (;;) {
    // Each call gives some of the entries, and none at the end.
    const some = await new Promise<FileSystemEntry[]>((found, failed) => reader.readEntries(found, failed));
    if (some.length === 0) return files;
    for (const inner of some) for (const file of await filesIn(inner)) files.push(file);
  }
}
