import type { Action, Chain, Rule } from '../rules/rule';
import { drops } from './destinations';
import { rewrite } from './edits';
import type { Repair } from './finding';
import { REPAIRS } from './wording';

/** What a rule could do with its mail instead. */

/** Where mail lies that may be unwanted, to be looked through and emptied. */
const DOUBTFUL = { action: 'fileinto', folder: 'Doubtful', copy: false, flags: null } as const;

/** Filed instead of dropped or refused, where it can be looked through and emptied; or marked and left in the inbox. */
export function filed(chain: Chain, rule: Rule): Repair[] {
  const ends = ({ action }: Action) => /^(discard|e?reject)$/.test(action);
  if (!rule.actions.some(ends)) return [];
  const instead = (made: Action) => ({
    ...rule,
    actions: rule.actions.map((action) => (ends(action) ? made : action)),
  });
  const does = drops(rule) ? 'drops' : 'refuses';
  const marked = instead({ action: 'addflag', flags: ['$Doubtful'] });
  return [
    rewrite(chain, rule, instead(DOUBTFUL), REPAIRS['file instead'](rule.name, does)),
    rewrite(chain, rule, marked, REPAIRS['mark instead'](rule.name, does)),
  ];
}

/** Lets the inbox hold as well what a rule files. */
export function inInboxToo(chain: Chain, rule: Rule): Repair[] {
  const kept = { ...rule, actions: [...rule.actions, { action: 'keep', flags: null } as const] };
  return [rewrite(chain, rule, kept, REPAIRS['inbox too'](rule.name))];
}
