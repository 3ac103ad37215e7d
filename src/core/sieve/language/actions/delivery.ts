import { maybeSingleAddress } from '../../../mail/address';
import { normalFlags } from '../../interpret/fate';
import { type Run, ScriptError } from '../../interpret/run';
import type { Bound } from '../bind';
import type { CommandDefinition, Problem } from '../definition';
import { COPY, CREATE, FLAGS, SPECIAL_USE } from '../shared';

const action = { kind: 'command', role: 'action', block: false, subtests: 'none' } as const;

/** `:flags` overrides the internal variable (RFC 5232 section 5); `:flags ""` is none. */
function flagsFor(bound: Bound): (run: Run) => readonly string[] | null {
  if (bound.tag('flags') === null) return () => null;
  const given = bound.texts('flags');
  return (run) => normalFlags(given(run));
}

/** RFC 5228 section 4.3. */
export const keep: CommandDefinition = {
  ...action,
  name: 'keep',
  about: 'Delivers to the inbox.',
  capability: null,
  section: 'RFC 5228 section 4.3',
  tagGroups: [FLAGS],
  positional: [],
  compile: (bound) => {
    const flags = flagsFor(bound);
    return (run) => run.fate.take({ action: 'keep', flags: flags(run) }, run.flags);
  },
};

/** RFC 5228 section 4.1, with :copy of RFC 3894, :create of RFC 5490 section 3.2 and :specialuse of RFC 8579 section 4. */
export const fileinto: CommandDefinition = {
  ...action,
  name: 'fileinto',
  about: 'Delivers to a folder.',
  capability: 'fileinto',
  section: 'RFC 5228 section 4.1',
  tagGroups: [COPY, FLAGS, CREATE, SPECIAL_USE],
  positional: [{ name: 'mailbox', type: 'string' }],
  examine: (bound, problem) => {
    if (bound.string('mailbox') === '') problem('empty-folder', bound.argument('mailbox'), {});
  },
  compile: (bound) => {
    const folder = bound.text('mailbox');
    const use = bound.has('specialuse') ? bound.text('specialuse') : null;
    const copy = bound.tag('copy') !== null;
    const flags = flagsFor(bound);
    return (run) => {
      // Files into a folder with that use if there is one, else into the named folder.
      const special = use ? run.world.specialUse.get(use(run).toLowerCase()) : undefined;
      run.fate.take({ action: 'fileinto', folder: special ?? folder(run), copy, flags: flags(run) }, run.flags);
    };
  },
};

/** RFC 5228 section 4.2, with :copy of RFC 3894, :list of RFC 6134 section 2.5 and the tags of RFC 6009. */
export const redirect: CommandDefinition = {
  ...action,
  name: 'redirect',
  about: 'Redirects the message to an address.',
  capability: null,
  section: 'RFC 5228 section 4.2',
  tagGroups: [
    COPY,
    { name: 'list', tags: [{ tag: 'list', capability: 'extlists' }] },
    {
      name: 'notify',
      tags: [{ tag: 'notify', capability: 'redirect-dsn', value: { name: 'notify', type: 'string-list' } }],
    },
    { name: 'ret', tags: [{ tag: 'ret', capability: 'redirect-dsn', value: { name: 'ret', type: 'string' } }] },
    {
      name: 'bytime',
      tags: [
        { tag: 'bytimerelative', capability: 'redirect-deliverby', value: { name: 'bytime', type: 'number' } },
        { tag: 'bytimeabsolute', capability: 'redirect-deliverby', value: { name: 'bytime', type: 'string' } },
      ],
    },
    {
      name: 'bymode',
      tags: [
        {
          tag: 'bymode',
          capability: 'redirect-deliverby',
          value: { name: 'bymode', type: 'string' },
          beside: 'bytime',
        },
      ],
    },
    { name: 'bytrace', tags: [{ tag: 'bytrace', capability: 'redirect-deliverby', beside: 'bytime' }] },
  ],
  positional: [{ name: 'address', type: 'string' }],
  examine: (bound, problem) => {
    if (bound.tag('list') === null) examineAddress(bound, 'address', problem);
    examineOneOf(bound, 'ret', /^(full|hdrs)$/i, 'FULL or HDRS (RFC 6009 section 5)', problem);
    examineOneOf(
      bound,
      'notify',
      /^(never|success|failure|delay)$/i,
      'NEVER, SUCCESS, FAILURE or DELAY (RFC 6009 section 5)',
      problem,
    );
    examineOneOf(bound, 'bymode', /^(notify|return)$/i, 'notify or return (RFC 6009 section 6)', problem);
  },
  compile: (bound) => {
    const address = bound.text('address');
    const copy = bound.tag('copy') !== null;
    const list = bound.tag('list') !== null;
    const unknown = !list && bound.varies(bound.string('address'));
    return (run) => {
      const named = address(run);
      if (unknown && !maybeSingleAddress(named)) throw new ScriptError('redirect was given an incomplete address');
      const addresses = list ? (run.world.lists.get(named) ?? []) : [named];
      for (const one of addresses) run.fate.take({ action: 'redirect', address: one, copy }, run.flags);
    };
  },
};

/** Reports a string that is not a single complete address; strings with variables are known only at run time. */
export function examineAddress(bound: Bound, name: string, problem: Problem): void {
  for (const item of bound.has(name) ? bound.items(name) : []) {
    if (bound.varies(item.value) || maybeSingleAddress(item.value)) continue;
    problem('bad-address', item, { address: item.value });
  }
}

export function examineOneOf(bound: Bound, name: string, allowed: RegExp, expected: string, problem: Problem): void {
  for (const item of bound.has(name) ? bound.items(name) : []) {
    if (bound.varies(item.value) || allowed.test(item.value)) continue;
    problem('bad-value', item, { found: item.value, expected });
  }
}

/** RFC 5228 section 4.4. */
export const discard: CommandDefinition = {
  ...action,
  name: 'discard',
  about: 'Discards the message unless another action delivers it.',
  capability: null,
  section: 'RFC 5228 section 4.4',
  tagGroups: [],
  positional: [],
  compile: () => (run) => run.fate.take({ action: 'discard' }, run.flags),
};
