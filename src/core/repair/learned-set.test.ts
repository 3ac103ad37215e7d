import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MailGatherer, valued } from '../audit/stored';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { sentenceOf } from '../rules/sentence';
import { learnSet } from './learned-set';

type Letter = readonly [from: string, subject: string, folder: string, list?: string];

function learn(letters: readonly Letter[]) {
  const columns = new MemoryColumns();
  const gatherer = new MailGatherer();
  letters.forEach(([from, subject, folder, list], n) => {
    const date = new Date(Date.UTC(2026, 0, 1, 0, n)).toUTCString().replace('GMT', '+0000');
    const text = `From: ${from}\nTo: me@mill.example\nSubject: ${subject}\nDate: ${date}\nMessage-ID: <${n}@x.example>\n${list ? `List-Id: <${list}>\n` : ''}\nwords\n`;
    const message = readMessage(new TextEncoder().encode(text));
    gatherer.add({ message, folder, flags: [] });
    columns.add(message, envelopeOf(message, null));
  });
  const mail = valued(gatherer.mail(['me@mill.example']));
  const set = learnSet(mail);
  const chain = { entries: set.rules, closing: '' };
  const flow = runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
  return { ...set, mail, flow, said: set.rules.map((rule) => sentenceOf(rule)) };
}

const times = (count: number, ...letter: Letter): Letter[] => Array.from({ length: count }, () => letter);
/** Each kind of mail is spread over the whole time. */
const mixed = (...kinds: readonly Letter[][]): Letter[] => {
  const most = Math.max(...kinds.map(({ length }) => length));
  return Array.from({ length: most }, (_, at) => kinds.flatMap((kind) => kind.slice(at, at + 1))).flat();
};

describe('a whole set of rules, learned from filed mail', () => {
  test('by sender, domain and list, several in a folder, those of one kind together', () => {
    const { said, older, newer } = learn(
      mixed(
        times(20, 'a@oak.example', 'one', 'Yard'),
        times(10, 'b@lime.example', 'two', 'Yard'),
        times(10, 'c@news.example', 'three', 'Reading'),
        times(10, 'd@news.example', 'four', 'Reading'),
        times(10, 'e@x.example', 'five', 'Weavers', 'weavers.x.example'),
        times(10, 'f@y.example', 'six', 'Weavers', 'weavers.x.example'),
        times(20, 'g@z.example', 'seven', 'INBOX'),
      ),
    );
    expect([...said].sort()).toEqual([
      'When List-Id contains “weavers.x.example”: file into “Weavers”, then stop.',
      'When the address in From is “a@oak.example” or “b@lime.example”: file into “Yard”, then stop.',
      'When the domain of From is “news.example”: file into “Reading”, then stop.',
    ]);
    expect([older.count(), newer.count()]).toEqual([63, 27]);
  });

  test('what is elsewhere comes first, or is an exception', () => {
    const { said } = learn(
      mixed(
        times(30, 'a@oak.example', 'beam', 'Oak'),
        times(10, 'b@oak.example', 'bills', 'Bills'),
        times(8, 'c@oak.example', 'lunch', 'INBOX'),
      ),
    );
    expect(said).toContain('When the address in From is “b@oak.example”: file into “Bills”, then stop.');
    expect(said.join()).toMatch(/oak\.example/);
    const letters = mixed(
      times(40, 'a@oak.example', 'beam', 'Oak'),
      times(9, 'a@oak.example', 'dinner party', 'INBOX'),
    );
    expect(learn(letters).said).toEqual([
      'When the address in From is “a@oak.example”, unless the subject contains “dinner”: file into “Oak”, then stop.',
    ]);
  });

  test('words of the subject tell apart what one sender writes', () => {
    const { said } = learn(
      mixed(times(20, 'a@oak.example', 'Invoice 1', 'Bills'), times(20, 'a@oak.example', 'Delivery 2', 'Parcels')),
    );
    expect(said.join()).toMatch(/“(invoice|delivery)”/);
    expect(said).toHaveLength(2);
  });

  test('words in other scripts are as they are written, since rules do not ignore their case', () => {
    const { said, flow, older } = learn(
      mixed(
        times(20, 'a@oak.example', 'Старая мельница', 'Abroad'),
        times(20, 'a@oak.example', 'Delivery 2', 'Parcels'),
      ),
    );
    expect(said.join()).toContain('Старая');
    expect(flow.entries.map(({ fired }) => fired.and(older).count())).toEqual([14, 14]);
  });

  test('mail of the inbox, sent mail and a few messages suggest nothing', () => {
    expect(
      learn([...times(50, 'a@oak.example', 'beam', 'INBOX'), ...times(3, 'b@x.example', 'x', 'Odd')]).said,
    ).toEqual([]);
    expect(learn(times(50, 'me@mill.example', 'mine', 'Sent')).said).toEqual([]);
    expect(learn([]).said).toEqual([]);
  });

  test('what is learned is right for nearly all of the mail that it was learned from', () => {
    const letter = fc.tuple(
      fc.constantFrom('a@oak.example', 'b@oak.example', 'c@lime.example', 'd@news.example'),
      fc.constantFrom('beam and joist', 'lime mortar', 'weekly news', 'lunch today'),
      fc.constantFrom('Oak', 'Lime', 'News', 'INBOX'),
    );
    fc.assert(
      fc.property(fc.array(letter, { minLength: 20, maxLength: 120 }), (letters) => {
        const { flow, older, mail } = learn(letters);
        for (const { entry, fired } of flow.entries) {
          if (entry.kind !== 'rule') continue;
          const [action] = entry.actions;
          const own = [...fired.and(older).members()];
          const right = own.filter((n) => action?.action === 'fileinto' && mail.message(n).folder === action.folder);
          expect(right.length).toBeGreaterThanOrEqual(0.8 * own.length);
        }
      }),
      { numRuns: 200 },
    );
  });
});
