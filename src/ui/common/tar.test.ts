import { Readable } from 'node:stream';
import { extract } from 'tar-stream';
import { describe, expect, test } from 'vitest';
import { elementAt } from '../../core/text/lookup';
import { octetsOf } from '../../files/undeclared';
import { packed, tarParts } from './packed';

/** What an independent reader of tar archives finds. */
async function unpacked(parts: BlobPart[]): Promise<[string, string][]> {
  const archive = extract();
  Readable.from([Buffer.from(await new Blob(parts).arrayBuffer())]).pipe(archive);
  const found: [string, string][] = [];
  for await (const entry of archive) {
    const chunks: Buffer[] = [];
    for await (const chunk of octetsOf(entry)) chunks.push(chunk);
    found.push([entry.header.name, Buffer.concat(chunks).toString()]);
  }
  return found;
}

const dropped = (path: string, text: string) => Object.assign(new File([text], path.replace(/^.*\//, '')), { path });

describe('folders that are dropped', () => {
  test('are read by another reader as they were, whatever the length and script of their names', async () => {
    const files = [
      ['cur/1700000000.1.mill:2,S', 'From: a@x.example'],
      [`${'long '.repeat(60)}/Müll 水車.mbox`, 'x'.repeat(1500)],
      ['empty', ''],
      ['exactly one block', 'b'.repeat(512)],
    ] as const;
    const placed = files.map(([path, text]) => ({ path, file: new File([text], 'any') }));
    expect(await unpacked(tarParts(placed))).toEqual(files);
  });

  test('files by themselves, scripts and archives are sent as they are, the rest of each folder as one', async () => {
    const { rules, others } = await packed([
      dropped('./a.mbox', 'a'),
      dropped('/Mill/cur/1', 'require me'),
      dropped('/Mill/new/2', 'two'),
      dropped('/Mill/rules.sieve', 'keep;'),
      dropped('/Mill/old.zip', 'PK'),
      dropped('Other/b.eml', 'b'),
    ]);
    expect(rules.map(({ name }) => name)).toEqual(['Mill/rules.sieve']);
    expect(others.map(({ name }) => name)).toEqual(['a.mbox', 'Mill/old.zip', 'Mill.tar', 'Other.tar']);
    expect(await unpacked([elementAt(others, 2)])).toEqual([
      ['cur/1', 'require me'],
      ['new/2', 'two'],
    ]);
  });

  test('scripts, sheets and documents of rules come in the natural order of their paths, whatever they are called', async () => {
    const { rules, others } = await packed([
      dropped('/Rules/10 lists.sieve', 'keep;'),
      dropped('/Rules/2 people', '# People\nif true { keep; }'),
      dropped('/Rules/01.sieve', 'keep;'),
      dropped('/Rules/sheets/3.csv', 'Rule,Sender'),
      dropped('/Rules/more.json', '{"format": "ysomeris-chain"}'),
      dropped('/Rules/xml', '<?xml version="1.0"?>'),
      dropped('/Rules/notes', 'Dear all,'),
    ]);
    expect(rules.map(({ name }) => name.replace('Rules/', ''))).toEqual([
      '01.sieve',
      '2 people',
      '10 lists.sieve',
      'more.json',
      'sheets/3.csv',
      'xml',
    ]);
    expect(others.map(({ name }) => name)).toEqual(['Rules.tar']);
  });
});
