import { normalFlags } from '../../interpret/fate';
import { readVariable, writeVariable } from '../../interpret/run';
import type { CommandDefinition } from '../definition';

/** How each of the three actions of RFC 5232 section 3 changes the internal variable. */
export type FlagChange = 'setflag' | 'addflag' | 'removeflag';

export function changeFlags(change: FlagChange, held: readonly string[], given: readonly string[]): readonly string[] {
  switch (change) {
    case 'setflag':
      return given;
    case 'addflag':
      return [...new Set([...held, ...given])];
    case 'removeflag':
      return held.filter((flag) => !given.includes(flag));
    default:
      change satisfies never;
      throw new Error(`unknown flag action ${change}`);
  }
}

function flagAction(name: FlagChange, section: string, about: string): CommandDefinition {
  return {
    kind: 'command',
    role: 'action',
    block: false,
    name,
    about,
    capability: 'imap4flags',
    section,
    tagGroups: [],
    positional: [
      { name: 'variable', type: 'string', optional: { capability: 'variables' } },
      { name: 'list-of-flags', type: 'string-list' },
    ],
    subtests: 'none',
    touches: (bound) => (bound.has('variable') ? ['sets variables', 'reads variables'] : ['sets flags']),
    compile: (bound) => {
      const texts = bound.texts('list-of-flags');
      const variable = bound.has('variable') ? bound.string('variable') : null;
      return (run) => {
        const given = normalFlags(texts(run));
        if (variable === null) {
          run.fate.take({ action: name, flags: given }, run.flags);
          run.flags = changeFlags(name, run.flags, given);
        } else {
          const held = normalFlags([readVariable(variable, run)]);
          writeVariable(variable, changeFlags(name, held, given).join(' '), run);
        }
      };
    },
  };
}

export const setflag = flagAction('setflag', 'RFC 5232 section 3.1', 'Replaces the flags for later deliveries.');
export const addflag = flagAction('addflag', 'RFC 5232 section 3.2', 'Adds flags for later deliveries.');
export const removeflag = flagAction('removeflag', 'RFC 5232 section 3.3', 'Removes flags for later deliveries.');
