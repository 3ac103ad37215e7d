import { Readable } from 'node:stream';
import { extract } from 'tar-stream';
import { describe, expect, test } from 'vitest';
import { packed, tarParts } from './tar';

/** What an independent reader of tar archives finds. */
async function unpacked(parts: BlobPart[]): Promise<[string, string][]> {
  const archive = extract();
  Readable.from([Buffer.from(await new Blob(parts).arrayBuffer())]).pipe(archive);
  const found: [string, string][] = [];
  for await (const entry of archive) {
    const chunks: Buffer[] = [];
    for await (const chunk of entry) chunks.push(chunk as Buffer);
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

  test('files by themselves and scripts are sent as they are', async () => {
    const files = [
      dropped('./a.mbox', 'a'),
      dropped('/Mill/cur/1', 'one'),
      dropped('/Mill/new/2', 'two'),
      dropped('/Mill/rules.sieve', 'keep;'),
      dropped('Other/b.eml', 'b'),
    ];
    const sent = packed(files);
    expect(sent.map(({ name }) => name)).toEqual(['a.mbox', 'rules.sieve', 'Mill.tar', 'Other.tar']);
    expect(await unpacked([sent[2] as File])).toEqual([
      ['cur/1', 'one'],
      ['new/2', 'two'],
    ]);
  });
});
