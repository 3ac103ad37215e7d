import { copyFileSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { writeMboxEntry } from '../src/core/mail/mbox';
import { type DemoMessage, demoMail } from './mail';

/** Writes the demo data below a folder: rules.sieve, and one mbox for each folder. Returns the mbox files. */
export function writeDemo(root: string, rules: string): { file: string; folder: string }[] {
  const byFolder = group(demoMail());
  mkdirSync(root, { recursive: true });
  copyFileSync(rules, join(root, 'rules.sieve'));
  const files: { file: string; folder: string }[] = [];
  for (const [folder, messages] of byFolder) {
    const file = join(root, 'mail', `${folder}.mbox`);
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
