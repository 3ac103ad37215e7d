import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { ownJson } from '../../core/text/lookup';
import { beginWith } from './beginning';

interface Asked {
  readonly method: string;
  readonly path: string;
  readonly name: string | null;
}

let asked: Asked[];
let said: string[];
/** The server's responses by path; a missing one means success. */
let answers: Record<string, { status: number; error: string }>;

const tell = {
  sending: (fileName: string) => said.push(`sending ${fileName}`),
  refused: (words: string) => said.push(`refused ${words}`),
};

beforeEach(() => {
  [asked, said, answers] = [[], [], {}];
  vi.stubGlobal('fetch', async (path: string, { method = 'GET', headers = {}, body }: RequestInit = {}) => {
    const fileName = new Headers(headers).get('x-file-name') ?? undefined;
    const made = path === '/api/audits' ? ownJson<{ name: string }>(String(body)).name : null;
    asked.push({ method, path, name: fileName === undefined ? made : decodeURIComponent(fileName) });
    const refused = answers[fileName === undefined ? path : decodeURIComponent(fileName)];
    if (refused) return Response.json({ error: refused.error }, { status: refused.status });
    return Response.json(path.endsWith('/files') ? { statement: 'It is being read.' } : { id: 'a1' });
  });
});
afterEach(() => vi.unstubAllGlobals());

const file = (name: string, text = 'words') => new File([text], name);
const calls = () => asked.map(({ method, path, name }) => [method, path, ...(name === null ? [] : [name])].join(' '));

describe('what is dropped on the first page', () => {
  test('begins an audit that is called after the first file, and all of it is sent there', async () => {
    expect(await beginWith([file('old.rules.sieve'), file('INBOX.mbox')], '', tell)).toBe('/audits/a1/gather');
    expect(calls()).toEqual([
      'POST /api/audits old.rules',
      'POST /api/audits/a1/files old.rules.sieve',
      'POST /api/audits/a1/files INBOX.mbox',
    ]);
    expect(said).toEqual(['sending old.rules.sieve', 'sending INBOX.mbox']);
  });

  test.each([
    ['given', 'INBOX.mbox', 'given'],
    ['', '.mbox', '.mbox'],
    ['', 'no ending', 'no ending'],
    ['', `${'x'.repeat(300)}.mbox`, 'x'.repeat(200)],
  ])('the name “%s” with the file “%s”', async (name, fileName, called) => {
    await beginWith([file(fileName)], name, tell);
    expect(asked[0]?.name).toBe(called);
  });

  test('file names of any script are sent as they are', async () => {
    await beginWith([file('Überlauf 石灰.sieve')], '', tell);
    expect(asked.at(-1)?.name).toBe('Überlauf 石灰.sieve');
  });

  test('an audit in which some of it is refused stays; one in which all of it is goes', async () => {
    answers = { 'bad.zip': { status: 422, error: 'the zip archive is damaged' } };
    expect(await beginWith([file('bad.zip'), file('INBOX.mbox')], '', tell)).toBe('/audits/a1/gather');
    expect(calls().at(-1)).toBe('POST /api/audits/a1/files INBOX.mbox');
    expect(await beginWith([file('bad.zip')], '', tell)).toBeNull();
    expect(calls().at(-1)).toBe('DELETE /api/audits/a1');
    expect(said).toContain('refused the zip archive is damaged');
  });

  test('a whole audit in JSON is opened as it was, rules in JSON begin one', async () => {
    expect(await beginWith([file('mill.json', '{"ysomeris": "audit"}')], 'not used', tell)).toBe('/audits/a1/chain');
    expect(calls()).toEqual(['POST /api/archive']);
    answers = { '/api/archive': { status: 422, error: 'it is not JSON, or it is truncated' } };
    expect(await beginWith([file('cut.json', '{"ysom')], '', tell)).toBeNull();
    expect(said.at(-1)).toBe('refused “cut.json”: it is not JSON, or it is truncated');
  });

  test('nothing at all is nothing', async () => {
    expect(await beginWith([], '', tell)).toBeNull();
    expect(asked).toEqual([]);
  });

  test('a server that does not answer is told to whoever began', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('Failed to fetch')));
    await expect(beginWith([file('a.mbox')], '', tell)).rejects.toThrow('The Ysomeris server does not answer.');
  });
});
