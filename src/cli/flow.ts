import { type Atom, columnsForAtom, evaluateAtoms, readerOf } from '../core/flow/atoms';
import { type ColumnName, MemoryColumns } from '../core/flow/columns';
import type { AtomBitmaps } from '../core/flow/conditions';
import { type Flow, runFlow } from '../core/flow/flow';
import { atomsOf } from '../core/flow/program';
import type { Clock } from '../core/mail/arrival';
import { type Envelope, envelopeOf, type MailMessage } from '../core/mail/message';
import type { Chain } from '../core/rules/rule';
import { type FileMessage, readMessages } from './files';

/** One time for all messages if given, else the time when each message arrived. */
export const clockOf = (now: number | undefined): Clock => ({ fixed: now ?? null, otherwise: Date.now() });

/** The flow of some messages of a file that follow each other. */
export interface FileFlow {
  readonly flow: Flow;
  /** Of the tests of the chain, and of those asked for besides. */
  readonly atoms: AtomBitmaps;
  /** Message-ID of each message, or null. */
  readonly ids: readonly (string | null)[];
}

/** A chain runs over this many messages at once, or over fewer of this many octets together. */
const AT_ONCE = 5000;
const OCTETS_AT_ONCE = 32 * 1024 * 1024;

/** What may be done besides running a chain. */
interface Besides {
  /** Its tests are evaluated too. */
  readonly also: Chain;
  /** Called for each message, before the flow that contains it. */
  readonly see: (message: FileMessage) => void;
}

const NOTHING: Besides = { also: { entries: [], closing: '' }, see: () => {} };

/** Runs a chain on the messages of a file, in their order, some at once: memory does not grow with the file. */
export async function* flowsOfFile(
  chain: Chain,
  path: string,
  me: readonly string[],
  clock: Clock,
  { also, see }: Besides = NOTHING,
): AsyncGenerator<FileFlow> {
  const needed = [...atomsOf(chain), ...atomsOf(also)];
  const begin = () => ({ columns: columnsFor(needed), ids: [] as (string | null)[], octets: 0 });
  let some = begin();
  const finished = (): FileFlow => {
    const { columns, ids } = some;
    some = begin();
    const atoms = evaluateAtoms(needed, columns, () => {}, clock);
    return { flow: runFlow(chain, atoms, columns.count), atoms, ids };
  };
  const envelope = envelopesFor(needed, me);
  for await (const found of readMessages(path)) {
    for (const one of found) {
      const { message, raw } = one;
      see(one);
      some.columns.add(message, envelope(message));
      some.ids.push(idOf(message));
      some.octets += raw.length;
      if (some.ids.length >= AT_ONCE || some.octets >= OCTETS_AT_ONCE) yield finished();
    }
  }
  if (some.ids.length > 0) yield finished();
}

/**
 * The columns that some tests need from the messages of a file; empty if there is no file.
 * Calls `see` once for each message, and `foundFolder` for each folder of a Maildir.
 */
export async function columnsOfFile(
  needed: readonly Atom[],
  path: string | null,
  me: readonly string[],
  see: (message: FileMessage) => void = () => {},
  foundFolder?: (folder: string) => void,
): Promise<MemoryColumns> {
  const columns = columnsFor(needed);
  if (path !== null) {
    const envelope = envelopesFor(needed, me);
    for await (const found of readMessages(path, foundFolder)) {
      for (const one of found) {
        see(one);
        columns.add(one.message, envelope(one.message));
      }
    }
  }
  return columns;
}

/** Empty columns of what some tests read. */
function columnsFor(needed: readonly Atom[]): MemoryColumns {
  const readers = needed.map(readerOf);
  return new MemoryColumns({
    whole: readers.includes('interpreter'),
    text: readers.some((reader) => typeof reader === 'object'),
    columns: new Set(needed.flatMap(columnsForAtom)),
  });
}

const NO_ENVELOPE: Envelope = { from: null, to: null };

/** The envelope of each message; not looked for if no test reads it. */
function envelopesFor(needed: readonly Atom[], me: readonly string[]): (message: MailMessage) => Envelope {
  const isRead = needed.some((atom) => readerOf(atom) === 'interpreter' || columnsForAtom(atom).some(isOfEnvelope));
  return isRead ? (message) => envelopeOf(message, me[0] ?? null) : () => NO_ENVELOPE;
}

const isOfEnvelope = (column: ColumnName): boolean => column.startsWith('envelope:');

function idOf({ fields }: MailMessage): string | null {
  const id = fields.find(({ name }) => name.toLowerCase() === 'message-id')?.value;
  return id === undefined || id === '' ? null : id;
}
