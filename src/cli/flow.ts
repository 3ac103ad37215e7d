import { type Atom, columnsForAtom, evaluateAtoms, readerOf } from '../core/flow/atoms';
import { MemoryColumns } from '../core/flow/columns';
import { type Flow, runFlow } from '../core/flow/flow';
import { atomsOf } from '../core/flow/program';
import type { Clock } from '../core/mail/arrival';
import type { Chain } from '../core/rules/rule';
import { type FileMessage, readMessages } from './files';

/** One time for all messages if given, else the time when each message arrived. */
export const clockOf = (now: number | undefined): Clock => ({ fixed: now ?? null, otherwise: Date.now() });

export interface FileFlow {
  readonly flow: Flow;
  /** Message-ID of each message, or null. */
  readonly ids: readonly (string | null)[];
}

/** Runs a chain on the messages of a file; only the columns of the messages are kept in memory. */
export async function flowOfFile(
  chain: Chain,
  path: string | null,
  me: readonly string[],
  clock: Clock,
): Promise<FileFlow> {
  const needed = atomsOf(chain);
  const { columns, ids } = await columnsOfFile(needed, path, me);
  const atoms = evaluateAtoms(needed, columns, () => {}, clock);
  return { flow: runFlow(chain, atoms, columns.count), ids };
}

/**
 * The columns that some tests need from the messages of a file, and the Message-ID of each; empty if there is no file.
 * Calls `see` once for each message, and `foundFolder` for each folder of a Maildir.
 */
export async function columnsOfFile(
  needed: readonly Atom[],
  path: string | null,
  me: readonly string[],
  see: (message: FileMessage) => void = () => {},
  foundFolder?: (folder: string) => void,
): Promise<{ readonly columns: MemoryColumns; readonly ids: readonly (string | null)[] }> {
  const readers = needed.map(readerOf);
  const columns = new MemoryColumns({
    whole: readers.includes('interpreter'),
    text: readers.some((reader) => typeof reader === 'object'),
    columns: new Set(needed.flatMap(columnsForAtom)),
  });
  const ids: (string | null)[] = [];
  if (path !== null) {
    for await (const found of readMessages(path, me, foundFolder)) {
      const { message, envelope } = found;
      see(found);
      columns.add(message, envelope);
      const id = message.fields.find((field) => field.name.toLowerCase() === 'message-id')?.value;
      ids.push(id === undefined || id === '' ? null : id);
    }
  }
  return { columns, ids };
}
