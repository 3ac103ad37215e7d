import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { type PassedOver, Unreadable } from './found';
import { MOST_FILES } from './streams';

/** A file within a folder, by its path from there. */
interface InnerFile {
  readonly path: string;
  readonly octets: number;
}

/**
 * All files in a folder and its subfolders, in order of their names. Links are skipped, since they could lead out of
 * the folder or form a loop; so is anything else that is neither a file nor a folder.
 */
export async function filesWithin(
  root: string,
  passOver: (passed: PassedOver) => void = () => {},
  enter: (folder: string) => void = () => {},
): Promise<InnerFile[]> {
  const files: InnerFile[] = [];
  const look = async (folder: string, path: string): Promise<void> => {
    const entries = await readdir(folder, { withFileTypes: true });
    for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const inner = path === '' ? entry.name : `${path}/${entry.name}`;
      const full = join(folder, entry.name);
      if (entry.isDirectory()) {
        enter(inner);
        await look(full, inner);
      } else if (!entry.isFile()) passOver({ path: inner, reason: 'a link or a device, not a file' });
      else if (files.push({ path: inner, octets: (await stat(full)).size }) > MOST_FILES) {
        throw new Unreadable('it contains too many files');
      }
    }
  };
  await look(root, '');
  return files;
}
