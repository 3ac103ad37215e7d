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
 * All files within a folder and the folders in it, in the order of their names. Links are not followed, so that none leads
 * out of the folder or around in it; whatever is neither a file nor a folder is passed over too.
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
      } else if (!entry.isFile()) passOver({ path: inner, reason: 'a link or a device, no file' });
      else if (files.push({ path: inner, octets: (await stat(full)).size }) > MOST_FILES) {
        throw new Unreadable('it holds too many files');
      }
    }
  };
  await look(root, '');
  return files;
}
