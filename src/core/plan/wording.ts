import { assuming } from '../audit/wording';
import type { Assumption } from '../reason/solve/assumptions';

const quoted = (name: string): string => `“${name}”`;
const rules = (count: number): string => (count === 1 ? '1 rule' : `${count} rules`);

/** The sentences of a plan. */
export const PLAN_WORDS = {
  question: (subject: string, sender: string): string => {
    const message = subject === '' ? 'a message without a subject' : quoted(subject);
    return `Where does ${message}${sender === '' ? '' : ` from ${sender}`} belong?`;
  },
  made: (subject: string, sender: string): string =>
    `Where does mail like ${quoted(subject)} from ${sender} belong? No stored message tells.`,
  /** Why a step is proposed. */
  proved: (assumes: readonly Assumption[]): string =>
    `${assuming('Proved: no message is treated differently', assumes)}.`,
  'own filing': (agree: number, against: number): string =>
    `${agree} of these messages are where you put them or were answered or flagged there, and ${against === 0 ? 'none speaks' : against === 1 ? '1 speaks' : `${against} speak`} against it.`,
  answered: (name: string): string => `Your answer: ${name}.`,
  'never acts': (name: string): string => `Remove ${quoted(name)}, which never acts`,
  'leave out': (name: string, parts: readonly string[]): string =>
    `In ${quoted(name)}, remove ${parts.length === 1 ? parts[0] : `${parts.length} superfluous parts`}`,
  'sort keys': (count: number): string => `Sort the keys of ${rules(count)}`,
  'name rules': (count: number): string => `Name ${rules(count)} after what they are about`,
} as const;
