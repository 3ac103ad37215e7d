import { chainFromTold, readToldText, toldText } from '../../core/rules/told/text';
import { decodeText } from '../csv';
import type { RulesForm } from './form';

/** A script in a text file, by the first things that scripts say. */
const SCRIPT = /^\s*(require\s*["[]|if\s+(?:allof|anyof|not|[a-z]+\s+[:"[]))/im;

/** Lines that are looked at to tell sentences from other texts. */
const LOOK = 40;

/** Whether at least half of the first lines of a text are understood as rules; mail and prose are not. */
export function isToldText(text: string): boolean {
  const lines = readToldText(text.split(/\r\n|\r|\n/, LOOK).join('\n'), { me: ['me@me.invalid'], folders: [] });
  const understood = lines.filter(({ unread, remarks }) => unread.length + remarks.length === 0);
  return understood.length > 0 && understood.length >= lines.length / 2;
}

/** Rules as sentences, one a line. */
export const sentences: RulesForm = {
  title: 'text of sentences',
  is: (fileName, head) => /\.txt$/i.test(fileName) && !/^(?:\u00ef\u00bb\u00bf)?\s*</.test(head) && !SCRIPT.test(head),
  read: (octets, { me = [] } = {}) => {
    const source = decodeText(octets);
    const lines = readToldText(source, { me, folders: [] });
    const text = source.split(/\r\n|\r|\n/);
    const faults = lines.flatMap(({ line, rule, unread, remarks }, entry) => [
      ...unread.map(({ start, end }) => ({
        at: `${line}:${start + 1}`,
        words: `“${text[line - 1]?.slice(start, end) ?? ''}” is not understood`,
        entry,
      })),
      ...remarks
        .filter(({ isFault }) => isFault || !rule.on)
        .map(({ start, words }) => ({ at: `${line}:${start + 1}`, words, entry })),
    ]);
    return { ok: true, chain: chainFromTold(lines), source, faults };
  },
  write: toldText,
};
