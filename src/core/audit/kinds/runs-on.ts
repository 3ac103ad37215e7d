import type { Edit } from '../../rules/edit';
import { editWords } from '../../rules/edit-words';
import type { AuditContext } from '../context';
import { disagree, drops } from '../destinations';
import type { Finding } from '../finding';
import type { OverlapPair } from './overlap';

/**
 * `runs-on`: a message fires both rules, since the first lets later rules run, and what they do disagrees: two folders,
 * or filed and dropped.
 */
export function runsOn({ chain }: AuditContext, pairs: readonly OverlapPair[]): Finding[] {
  return pairs.flatMap(({ a, b }) => {
    if (!disagree(a.entry, b.entry)) return [];
    const both = a.fired.and(b.fired);
    if (both.isEmpty()) return [];
    const count = both.count();
    const what = drops(a.entry) !== drops(b.entry) ? 'file and drop' : 'file twice';
    const edits: Edit[] = [
      { kind: 'ending', id: a.entry.id, from: 'continue', to: 'stop' },
      { kind: 'switch', id: b.entry.id, on: false },
      { kind: 'switch', id: a.entry.id, on: false },
    ];
    return [
      {
        key: `runs-on ${a.entry.id} ${b.entry.id}`,
        kind: 'runs-on',
        rules: [a.entry.id, b.entry.id],
        certainty: 'shown',
        consequence: 'misplaced',
        claim: `“${a.entry.name}” lets later rules run, so it and “${b.entry.name}” ${what} the same ${count === 1 ? 'message' : `${count} messages`}.`,
        messages: [...both.members()],
        repairs: edits.map((edit) => ({ title: editWords(chain, edit), edits: [edit] })),
      } satisfies Finding,
    ];
  });
}
