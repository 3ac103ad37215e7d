import { describe, expect, test } from 'vitest';
import { addFile, audit, FROM, fill, id, simulated, store, withAudit, work } from '../../../test/harness';
import { createAudit, setOwnAddresses, setWithSent } from '../audits/audits';
import { makeChange } from '../changes/changes';
import { messageQueryShape } from '../http/shapes';
import { absenceView } from '../mail/absence-view';
import { offersOf } from '../mail/filters-view';
import { messagePage } from '../mail/list-view';
import { madeUpView, messageView } from '../mail/message-view';
import { peopleView } from '../mail/people-view';
import { dropProbe, keepProbe, listProbes, probeText } from '../mail/probes';
import { historyView, maybeStreams, originsView } from './flows-view';
import { chainView } from './view';

withAudit();

const letter = (fields: string, body = 'words') => `${FROM}\n${fields}\n\n${body}\n\n`;
const MANY = [
  letter(
    'From: Ann <Ann@x.example>\nTo: me@mill.example, b@y.example\nSubject: 100% oak\nMessage-ID: <1@x>\nStatus: RO',
  ),
  letter('From: me@mill.example\nTo: ann@x.example\nSubject: Re: oak\nIn-Reply-To: <1@x>\nMessage-ID: <2@x>'),
  letter(
    'From: List <l@x.example>\nList-Id: The Mill <Mill.x.example>\nSubject: news\nDate: Fri, 13 Mar 2026 23:59:00 +0000',
  ),
  letter(
    'From: c@z.example\nDelivered-To: office@mill.example\nSubject: plan\nDate: Sat, 14 Mar 2026 00:00:00 +0000\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b',
    '--b\nContent-Type: text/plain\n\nsee the sluice\n--b\nContent-Type: application/pdf; name=plan.pdf\n\nx\n--b--',
  ),
].join('');

async function many(): Promise<void> {
  await addFile(
    'rules.sieve',
    '# Oak\nif header :contains "subject" "oak" { discard; stop; }\n# Never\nif size :over 9M { stop; }',
  );
  await addFile('Mill.mbox', MANY);
  await work();
  setOwnAddresses(store, id, ['me@mill.example', 'office@mill.example']);
  await simulated();
}

const found = (query: Record<string, string>): number[] =>
  messagePage(store, id, messageQueryShape.parse(query))
    .rows.map(({ number }) => number)
    .sort();

describe('narrowing the list of messages', () => {
  test.each<[Record<string, string>, number[]]>([
    [{ from: 'ANN' }, [0]],
    [{ subject: '0%' }, [0]],
    [{ subject: '_' }, []],
    [{ person: 'ann@x.example' }, [0, 1]],
    [{ person: 'b@y.example' }, [0]],
    [{ person: 'y.example' }, []],
    [{ folder: 'Mill' }, [0, 1, 2, 3]],
    [{ folder: 'mill' }, []],
    [{ list: 'mill.x.example' }, [2]],
    [{ account: 'office@mill.example' }, [3]],
    [{ account: 'me@mill.example' }, [0]],
    [{ since: '2026-03-14' }, [3]],
    [{ until: '2026-03-13' }, [2]],
    [{ since: '2026-03-13', until: '2026-03-14' }, [2, 3]],
    [{ unseen: '1' }, [1, 2, 3]],
    [{ attached: '1' }, [3]],
    [{ conversation: '1' }, [0, 1]],
    [{ conversation: '3' }, [3]],
    [{ untouched: '1' }, [2, 3]],
    [{ search: 'sluice' }, [3]],
    [{ search: 'oak', unseen: '1' }, [1]],
    [{ fate: 'dropped' }, [0]],
    [{ sent: '1' }, [1]],
    [{ refiled: '{"from":["Mill"],"to":["Mill"]}' }, [2, 3]],
    [{ refiled: '{"from":["Mill"],"to":["Oak"]}' }, []],
    [{ refiled: '{"place":"Mill","part":"before"}' }, [0, 1, 2, 3]],
  ])('%j gives %j', async (query, numbers) => {
    await many();
    expect(found(query)).toEqual(numbers);
  });

  test.each([{ since: '2026-02-30' }, { refiled: 'no JSON' }, { refiled: '{}' }, { limit: '0' }, { part: 'some' }])(
    '%j is no query',
    (query) => expect(messageQueryShape.safeParse(query).success).toBe(false),
  );

  test('what passes is as many as the chain says', async () => {
    await fill();
    expect(found({ passing: 'foot' })).toHaveLength(chainView(store, id).foot?.left ?? -1);
    expect(found({ passing: 'implicit' })).toEqual([4]);
    expect(found({ passing: 'often' })).toEqual([2]);
    expect(found({ passing: 'once' })).toEqual([0, 1, 3]);
  });

  test('folders, lists and own addresses are offered', async () => {
    await many();
    expect(offersOf(store, id)).toEqual({
      folders: ['Mill'],
      lists: [{ id: 'mill.x.example', count: 1 }],
      accounts: ['me@mill.example', 'office@mill.example'],
    });
  });
});

describe('what is known of the mail as a whole', () => {
  test('correspondents, anew when the user says which addresses are theirs', async () => {
    await many();
    expect(peopleView(store, id).people?.map(({ address, written, received }) => [address, written, received])).toEqual(
      [
        ['ann@x.example', 1, 1],
        ['c@z.example', 0, 1],
        ['l@x.example', 0, 1],
      ],
    );
    setOwnAddresses(store, id, ['ann@x.example']);
    expect(peopleView(store, id).people).toBeNull();
    await simulated();
    expect(peopleView(store, id).people?.map(({ address }) => address)).toContain('me@mill.example');
  });

  test('a message tells how many belong to its conversation', async () => {
    await many();
    expect(messageView(store, id, 0).conversation).toBe(2);
    expect(messageView(store, id, 3).conversation).toBe(1);
  });
});

describe('mail that the user sent', () => {
  test('takes no part in the chain, unless they ask for it', async () => {
    await many();
    expect(chainView(store, id)).toMatchObject({ total: 3, sent: 1, withSent: false, foot: { left: 2 } });
    expect(chainView(store, id).rungs[0]?.counts).toMatchObject({ passing: 3, reached: 3, held: 1, fired: 1 });
    const rows = messagePage(store, id, messageQueryShape.parse({})).rows;
    expect(rows.filter(({ sent }) => sent).map(({ number, fate }) => [number, fate])).toEqual([[1, null]]);
    expect(messageView(store, id, 1).sent).toBe(true);
    expect(() => absenceView(store, id, 1)).toThrow('You sent this message');
    setWithSent(store, id, true);
    await simulated();
    expect(chainView(store, id)).toMatchObject({ total: 4, sent: 1, withSent: true });
    expect(found({ fate: 'dropped' })).toEqual([0, 1]);
    expect(messageView(store, id, 1).sent).toBe(false);
  });

  test('is other mail once the user says that an address is not theirs', async () => {
    await many();
    setOwnAddresses(store, id, ['office@mill.example']);
    await simulated();
    expect(chainView(store, id)).toMatchObject({ total: 4, sent: 0 });
  });
});

describe('where mail goes', () => {
  test('from rules to places, with what no rule takes', async () => {
    await fill();
    const links = maybeStreams(store, id)?.links.map(({ rule, destination, count }) => [rule, destination, count]);
    expect(links).toEqual([
      ['r1', 'folder:Weir', 2],
      ['r3', 'folder:Oak', 2],
      [null, 'inbox', 1],
      ['r4', 'folder:Beams', 1],
    ]);
  });

  test('where the mail of a place comes from, and when', async () => {
    await many();
    expect(originsView(store, id, 'dropped')).toEqual({
      count: 1,
      total: 3,
      domains: [{ domain: 'x.example', count: 1 }],
      months: { months: [{ month: '2026-03', count: 0 }], before: 0, after: 0 },
    });
    expect(originsView(store, id, 'inbox').months.months).toEqual([{ month: '2026-03', count: 2 }]);
  });

  test('when a rule has acted: every month of the mail, and the last message', async () => {
    await addFile('rules.sieve', '# Oak\nif header :contains "subject" "oak" { stop; }');
    const on = (date: string, subject: string) => letter(`Subject: ${subject}\nDate: ${date} 10:00:00 +0000`);
    await addFile('a.mbox', on('1 Nov 2025', 'oak') + on('5 Feb 2026', 'lime') + on('3 Nov 2025', 'oak'));
    await work();
    await simulated();
    expect(historyView(store, id, 'r1')).toEqual({
      fired: 2,
      months: {
        months: [
          { month: '2025-11', count: 2 },
          { month: '2025-12', count: 0 },
          { month: '2026-01', count: 0 },
          { month: '2026-02', count: 0 },
        ],
        before: 0,
        after: 0,
      },
      last: { number: 2, date: Date.UTC(2025, 10, 3, 10) },
    });
    expect(() => historyView(store, id, 'r9')).toThrow('no such rule');
  });

  test('a few wrong dates are told, and do not stretch the time that is drawn', async () => {
    await addFile('rules.sieve', '# Oak\nif header :contains "subject" "oak" { stop; }');
    const on = (date: string, n: number) => letter(`Subject: oak ${n}\nDate: ${date} 10:00:00 +0000`);
    const usual = Array.from({ length: 398 }, (_, n) => on(`${(n % 28) + 1} ${n % 2 ? 'Mar' : 'May'} 2026`, n));
    await addFile('a.mbox', [on('1 Jan 1970', 998), ...usual, on('5 Feb 2036', 999)].join(''));
    await work();
    await simulated();
    expect(historyView(store, id, 'r1').months).toEqual({
      months: [
        { month: '2026-03', count: 199 },
        { month: '2026-04', count: 0 },
        { month: '2026-05', count: 199 },
      ],
      before: 1,
      after: 1,
    });
  });
});

describe('why a message does not reach the inbox', () => {
  test('the rules, the edits that bring it there, and what else they would change', async () => {
    await fill();
    const view = absenceView(store, id, 2);
    expect(view.sets.map(({ rules, changed, arriving }) => [rules.map(({ name }) => name), changed, arriving])).toEqual(
      [[['Oak', 'Beams'], 2, 2]],
    );
    makeChange(store, id, view.sets[0]?.edits ?? [], 'test');
    expect(absenceView(store, id, 2)).toMatchObject({ arrives: true, sets: [] });
    expect(() => absenceView(store, id, 5)).toThrow('no such message');
  });
});

describe('probes', () => {
  test('are tried without being kept, and kept with the fate they must have', async () => {
    await fill();
    const raw = Buffer.from('Subject: Weir\n\n');
    const tried = madeUpView(audit(), raw);
    expect(tried.fate.places.map(({ label }) => label)).toEqual(['Weir']);
    expect(tried.entries.filter(({ outcome }) => outcome === 'fired').map(({ name }) => name)).toEqual(['Weir']);
    const probe = keepProbe(store, id, 'the weir', raw, 'Weir');
    keepProbe(store, id, 'no header', Buffer.from([0, 255, 10, 10]), null);
    expect(listProbes(store, id)).toMatchObject([
      { name: 'the weir', line: 'Weir', expected: 'Weir' },
      { name: 'no header', line: 'Inbox', expected: null },
    ]);
    makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], '');
    expect(listProbes(store, id)[0]).toMatchObject({ line: 'Inbox', expected: 'Weir' });
    expect(probeText(store, id, probe)).toEqual(raw);
    const other = createAudit(store, 'other');
    expect(() => probeText(store, other, probe)).toThrow('no such probe');
    expect(() => dropProbe(store, other, probe)).toThrow('no such probe');
    dropProbe(store, id, probe);
    expect(listProbes(store, id)).toHaveLength(1);
    expect(() => keepProbe(store, id, 'large', Buffer.alloc(2 ** 20 + 1), null)).toThrow('at most 1 MB');
  });
});
