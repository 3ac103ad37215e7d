import { describe, expect, test, vi } from 'vitest';
import { filesOf } from './useDrops';

/** Entries of the File and Directory Entries API (W3C draft), which list a folder in batches. */
type Tree = string | { readonly [name: string]: Tree };

function entryOf(name: string, tree: Tree, above = ''): unknown {
  const fullPath = `${above}/${name}`;
  if (typeof tree === 'string') {
    return { isFile: true, fullPath, file: (found: (file: File) => void) => found(new File([tree], name)) };
  }
  const inner = Object.entries(tree).map(([one, below]) => entryOf(one, below, fullPath));
  return {
    isFile: false,
    fullPath,
    createReader: () => ({ readEntries: (found: (some: unknown[]) => void) => found(inner.splice(0, 2)) }),
  };
}

const item = (kind: string, name: string, tree: Tree | null) => ({
  kind,
  webkitGetAsEntry: () => (tree === null ? null : entryOf(name, tree)),
  getAsFile: () => new File(['alone'], name),
});
const drop = (items: unknown[], type = 'drop') => ({ type, dataTransfer: { items } }) as unknown as DragEvent;
const pathsOf = (files: readonly unknown[]) =>
  files.map((file) => (file as { path?: string }).path ?? (file as File).name);

describe('what is dropped', () => {
  test('a folder is read to its end, with all folders in it and the path of each file', async () => {
    const folder = { cur: { '1:2,S': 'a', '2:2,': 'b', '3:2,RS': 'c' }, new: {}, '.Oak': { cur: { '4:2,S': 'd' } } };
    const files = (await filesOf(drop([item('file', 'Mail', folder)]))) as File[];
    expect(pathsOf(files)).toEqual(['/Mail/cur/1:2,S', '/Mail/cur/2:2,', '/Mail/cur/3:2,RS', '/Mail/.Oak/cur/4:2,S']);
    expect(await files[2]?.text()).toBe('c');
  });
  test('files beside folders, and what has no entry; text that is dragged is none', async () => {
    const items = [item('string', 'words', null), item('file', 'rules.sieve', 'keep;'), item('file', 'odd', null)];
    expect(pathsOf(await filesOf(drop(items)))).toEqual(['/rules.sieve', 'odd']);
  });
  test('while it hovers there are only the items, which tell their kind', async () => {
    const items = [item('file', 'a', 'x'), item('string', 'b', null)];
    expect(await filesOf(drop(items, 'dragenter'))).toHaveLength(1);
  });
  test('a field for files has those that were chosen; an event of another kind has none', async () => {
    class Field {
      readonly files = [new File(['x'], 'chosen.mbox')];
    }
    vi.stubGlobal('HTMLInputElement', Field);
    const from = (target: unknown) => filesOf({ type: 'change', target } as unknown as Event);
    expect(pathsOf(await from(new Field()))).toEqual(['chosen.mbox']);
    expect(await from(null)).toEqual([]);
    vi.unstubAllGlobals();
  });
});
