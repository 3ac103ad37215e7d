import type { Chain, Rule } from '../rule';
import type { Teller } from './conditions';
import { readTold, type ToldRule } from './read';
import { toldLine } from './told';

/** Rules told in a text, one a line; lines that begin with `#` are the note of the next rule. */

export interface ToldLine extends ToldRule {
  /** Counted from 1. */
  readonly line: number;
}

export function readToldText(text: string, teller: Teller): ToldLine[] {
  const found: ToldLine[] = [];
  let note: string[] = [];
  for (const [at, line] of text.split(/\r\n|\r|\n/).entries()) {
    const [, comment] = /^\s*#\s?(.*)$/.exec(line) ?? [];
    if (comment !== undefined) {
      note.push(comment);
      continue;
    }
    const read = readTold(line, `r${found.length + 1}`, teller);
    if (read) {
      const notes = [...note, ...(read.rule.note === '' ? [] : [read.rule.note])].join('\n');
      found.push({ ...read, rule: { ...read.rule, note: notes }, line: at + 1 });
    }
    note = [];
  }
  return found;
}

export const chainFromTold = (lines: readonly ToldRule[]): Chain => ({
  entries: lines.map(({ rule }) => rule),
  closing: '',
});

/** The rules of a chain as `readToldText` reads them. Script blocks and tags are left out. */
export function toldText({ entries }: Chain): string {
  const rules = entries.filter((entry): entry is Rule => entry.kind === 'rule');
  const lines = rules.flatMap((rule) => [
    ...(rule.note === '' ? [] : rule.note.split('\n').map((line) => `# ${line}`.trimEnd())),
    toldLine(rule),
  ]);
  return lines.map((line) => `${line}\n`).join('');
}
