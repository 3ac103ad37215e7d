import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, describe, expect, test } from 'vitest';
import { ZipFile } from 'yazl';
import { mailIn } from './mail/formats';
import { type PassedOver, Unreadable } from './mail/found';
import { octetsOf } from './undeclared';

/** Archives that are damaged, or crafted to harm whoever opens them. */

const root = mkdtempSync(join(tmpdir(), 'archives-'));
afterAll(() => rmSync(root, { recursive: true, force: true }));

const message = (subject: string) => `From: a@x.example\nSubject: ${subject}\n\nwords\n`;

async function zipOf(files: Readonly<Record<string, string | Buffer>>, compress = false): Promise<Buffer> {
  const zip = new ZipFile();
  for (const [path, text] of Object.entries(files)) zip.addBuffer(Buffer.from(text), path, { compress });
  zip.end();
  const parts: Buffer[] = [];
  for await (const part of octetsOf(zip.outputStream)) parts.push(part);
  return Buffer.concat(parts);
}

/** The subjects of the messages in a file, and the files that were skipped. */
async function read(name: string, octets: Buffer): Promise<{ subjects: string[]; passed: PassedOver[] }> {
  const file = join(root, name);
  writeFileSync(file, octets);
  const passed: PassedOver[] = [];
  const subjects: string[] = [];
  const settings = {
    name,
    folder: 'INBOX',
    progress: () => {},
    isEnd: () => false,
    passOver: (one: PassedOver) => passed.push(one),
  };
  for await (const some of mailIn(file, settings)) {
    for (const { raw } of some) subjects.push(/Subject: (.*)/.exec(Buffer.from(raw).toString())?.[1] ?? '');
  }
  return { subjects, passed };
}

describe('a zip archive', () => {
  test.each([false, true])(
    'with a damaged file: that one is passed over, the others are read (compressed: %s)',
    async (compress) => {
      const large = `${message('large')}${'x'.repeat(9 * 1024 * 1024)}\n`;
      const zip = await zipOf({ 'one.eml': message('one'), 'bad.eml': message('bad'), 'large.eml': large }, compress);
      // The checksum that the archive gives, in the central directory (APPNOTE 4.3.12).
      const entry = zip.lastIndexOf('bad.eml') - 46;
      expect(zip.readUInt32LE(entry)).toBe(0x02014b50);
      zip.writeUInt32LE(zip.readUInt32LE(entry + 16) ^ 1, entry + 16);
      const { subjects, passed } = await read('damaged.zip', zip);
      expect(subjects).toEqual(['one', 'large']);
      expect(passed).toEqual([{ path: 'bad.eml', reason: 'damaged: wrong checksum' }]);
    },
  );

  test('of encrypted files says so', async () => {
    const zip = await zipOf({ 'one.eml': message('one') }, true);
    const entry = zip.lastIndexOf('one.eml') - 46;
    // The first general purpose bit (APPNOTE 4.4.4).
    zip.writeUInt16LE(zip.readUInt16LE(entry + 8) | 1, entry + 8);
    zip.writeUInt16LE(zip.readUInt16LE(6) | 1, 6);
    const { subjects, passed } = await read('encrypted.zip', zip);
    expect(subjects).toEqual([]);
    expect(passed).toEqual([{ path: 'one.eml', reason: 'encrypted' }]);
  });

  test('whose many files are one and the same octets is a trap', async () => {
    const zip = await zipOf({ 'zero.eml': Buffer.alloc(10 * 1024 * 1024) }, true);
    const end = zip.length - 22;
    const start = zip.readUInt32LE(end + 16);
    const entry = zip.subarray(start, end);
    const count = 200;
    const last = Buffer.from(zip.subarray(end));
    last.writeUInt16LE(count, 8);
    last.writeUInt16LE(count, 10);
    last.writeUInt32LE(entry.length * count, 12);
    const trap = Buffer.concat([zip.subarray(0, start), ...Array(count).fill(entry), last]);
    expect(trap.length).toBeLessThan(50_000);
    await expect(read('overlapping.zip', trap)).rejects.toThrow(/more than 200 times its size/);
  });
});

describe('other archives', () => {
  test('a gzip file with a wrong checksum is refused by that', async () => {
    const gzip = gzipSync(message('one').repeat(100));
    gzip.writeUInt32LE(gzip.readUInt32LE(gzip.length - 8) ^ 1, gzip.length - 8);
    await expect(read('damaged.gz', gzip)).rejects.toThrow(/the gzip archive is damaged: wrong checksum/);
    await expect(read('cut.gz', gzip.subarray(0, 60))).rejects.toThrow(/it is truncated/);
  });

  test('a tar archive whose headers would fill the memory is refused before they do', async () => {
    const header = Buffer.alloc(512);
    header.write('path', 0);
    header.write('0000644\0', 100);
    header.write('0000000\0', 108);
    header.write('0000000\0', 116);
    header.write('77777777777\0', 124);
    header.write('00000000000\0', 136);
    header.write('        ', 148);
    header.write('x', 156);
    header.write('ustar\0' + '00', 257);
    header.write(
      `${header
        .reduce((sum, octet) => sum + octet, 0)
        .toString(8)
        .padStart(6, '0')}\0 `,
      148,
    );
    await expect(read('names.tar', Buffer.concat([header, Buffer.alloc(4096, 'a')]))).rejects.toThrow(Unreadable);
    await expect(read('names.tar', Buffer.concat([header, Buffer.alloc(4096, 'a')]))).rejects.toThrow(/name of a file/);
  });
});
