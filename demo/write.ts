import { copyFileSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { writeMboxEntry } from '../src/core/mail/mbox';
import { type DemoMessage, demoMail, laterMail } from './mail';

/**
 * Writes the demo data below a folder: rules.sieve, one mbox for each folder, and the mail that the built-in demo server has
 * later. Returns the mbox files.
 */
export function writeDemo(root: string, rules: string): { file: string; folder: string }[] {
  mkdirSync(root, { recursive: true });
  copyFileSync(rules, join(root, 'rules.sieve'));
  writeFolders(join(root, 'later'), laterMail());
  return writeFolders(join(root, 'mail'), demoMail());
}

function writeFolders(root: string, mail: readonly DemoMessage[]): { file: string; folder: string }[] {
  const files: { file: string; folder: string }[] = [];
  for (const [folder, messages] of group(mail)) {
    const file = join(root, `${folder}.mbox`);
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, mboxOf(messages));
    files.push({ file, folder });
  }
  return files;
}

function group(messages: readonly DemoMessage[]): Map<string, DemoMessage[]> {
  const groups = new Map<string, DemoMessage[]>();
  for (const message of messages) groups.set(message.folder, [...(groups.get(message.folder) ?? []), message]);
  return groups;
}

export function mboxOf(messages: readonly DemoMessage[]): Buffer {
  return Buffer.concat(messages.map(writeMboxEntry));
}
