import { expect, test } from 'vitest';
import { corpus } from '../agreement/corpus';
import { envelopeOf, readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import { atomKey, evaluateAtoms } from './atoms';
import { type ColumnName, type ColumnSource, DictionaryBuilder, MemoryColumns } from './columns';
import { atomsOf } from './program';

const SCRIPT = `require ["fileinto", "envelope", "relational", "comparator-i;ascii-numeric"];
if header :contains "subject" ["re:", "spam", ""] { keep; }
if header :contains ["subject", "x-none"] ["list", "the", "a", "e", "linux", "perl", "exmh", "zzz"] { keep; }
if header :matches "subject" "*[*]*" { keep; }
if header :is :comparator "i;octet" "subject" "Re: hello" { keep; }
if address :domain :is ["from", "sender"] ["example.com", "yahoo.com", "hotmail.com"] { keep; }
if address :localpart :contains ["to", "cc"] ["zzzz", "rpm", "fork", "user", "web", "s", "t", "u"] { keep; }
if exists ["list-id", "to"] { keep; }
if exists "received" { keep; }
if size :over 4K { keep; }
if size :under 2K { keep; }
if header :count "ge" "received" "4" { keep; }
if header :count "eq" ["to", "cc"] "2" { keep; }
if envelope :domain :contains "from" "." { keep; }
`;

/** The same columns by their distinct values. */
function byValues(columns: MemoryColumns): ColumnSource & { asked: Set<ColumnName> } {
  const asked = new Set<ColumnName>();
  return {
    asked,
    count: columns.count,
    scan: () => {
      throw new Error('every column is known by its values');
    },
    maybeDictionary: (column) => {
      asked.add(column);
      const builder = new DictionaryBuilder();
      columns.scan(column, (message, values) => {
        for (const value of values) builder.add(message, value);
      });
      return builder.take();
    },
    texts: (visit) => columns.texts(visit),
    messages: (visit) => columns.messages(visit),
  };
}

test('columns by their values give the same as columns by message', () => {
  const columns = new MemoryColumns();
  for (const raw of corpus().slice(0, 2500)) {
    const message = readMessage(raw);
    columns.add(message, envelopeOf(message, null));
  }
  const { chain, diagnostics } = chainFromSieve(SCRIPT);
  expect(diagnostics).toEqual([]);
  const atoms = atomsOf(chain);
  const [byMessage, source] = [evaluateAtoms(atoms, columns), byValues(columns)];
  const byTerm = evaluateAtoms(atoms, source);
  expect(source.asked.size).toBeGreaterThan(8);
  const counts = atoms.map((atom) => byMessage.get(atomKey(atom))?.count() ?? 0);
  expect(counts.filter((count) => count > 0).length).toBeGreaterThan(9);
  for (const atom of atoms) expect(byTerm.get(atomKey(atom))?.words).toEqual(byMessage.get(atomKey(atom))?.words);
});
