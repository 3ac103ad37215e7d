import { keysOf } from '../text/lookup';
import type { Certainty } from './finding';
import { type FindingKind, KINDS } from './kind-words';
import { PROOF_ASSUMES, REPAIRS } from './wording';

const OFF = 'Switch “A” off';
const REMOVE = 'Remove “A”';
const EXEMPT_RULES = [REPAIRS['exempt rule']('A', 'B'), REPAIRS['exempt rule']('B', 'A')];
const INSTEAD = [REPAIRS['file instead']('A', 'discards'), REPAIRS['mark instead']('A', 'discards')];
const SENDERS = ['ann@people.example'];
const EXEMPT_SENDERS = REPAIRS['exempt senders']('A', SENDERS);

interface Documented {
  /** The certainties that findings of this kind can have. */
  readonly certainty: readonly Certainty[];
  /** The titles of the repairs offered, for rules “A” and “B”, the most fitting first. */
  readonly repairs: readonly string[];
}

/** The certainties and repairs of each kind. */
export const DOCUMENTED: Readonly<Record<FindingKind, Documented>> = {
  loss: {
    certainty: ['shown'],
    repairs: [...INSTEAD, OFF, REMOVE],
  },
  unprotected: {
    certainty: ['observed'],
    repairs: [EXEMPT_SENDERS, REPAIRS['exempt own']('A'), ...INSTEAD, REPAIRS['inbox too']('A'), OFF, REMOVE],
  },
  'forward-risk': { certainty: ['shown'], repairs: [REPAIRS['keep a copy']('A'), EXEMPT_SENDERS, OFF, REMOVE] },
  'exception-bypassed': {
    certainty: ['shown'],
    repairs: [REPAIRS['same exceptions']('B', 'A'), 'Switch “B” off', 'Remove “B”'],
  },
  'exception-uneven': {
    certainty: ['shown'],
    repairs: [REPAIRS['same exceptions']('B', 'A'), REPAIRS['no exceptions']('A'), 'Switch “B” off', 'Remove “B”'],
  },
  'exception-narrow': {
    certainty: ['observed'],
    repairs: [REPAIRS['test for no subject']('A'), EXEMPT_SENDERS, REPAIRS['exempt domains']('A', ['people.example'])],
  },
  'exception-void': {
    certainty: ['proved'],
    repairs: [REPAIRS['without exception']('A', 'the subject contains “oak”')],
  },
  'cut-short': {
    certainty: ['shown'],
    repairs: ['Move “B” directly before “A”', 'Let “A” continue', ...EXEMPT_RULES],
  },
  shadowed: {
    certainty: ['proved', 'undecided'],
    repairs: ['Move “A” directly before “B”', REPAIRS['exempt rule']('B', 'A'), 'Let “B” continue', OFF, REMOVE],
  },
  'order-conflict': {
    certainty: ['shown'],
    repairs: ['Move “B” directly before “A”', ...EXEMPT_RULES, 'Let “A” continue', 'Let “A” stop'],
  },
  'runs-on': {
    certainty: ['shown', 'proved'],
    repairs: [
      ...EXEMPT_RULES,
      'Let “A” stop',
      'Switch “B” off',
      OFF,
      REPAIRS['only file']('A'),
      REPAIRS['only discard']('A'),
    ],
  },
  'hidden-unread': { certainty: ['observed'], repairs: [REPAIRS['inbox too']('A'), OFF, REMOVE] },
  'placement-disagrees': {
    certainty: ['observed'],
    repairs: [REPAIRS['all into']('A', 'Claims'), REPAIRS['a rule of its own']('A', SENDERS, 'Claims')],
  },
  'too-broad': {
    certainty: ['observed'],
    repairs: [REPAIRS['test for senders']('A', SENDERS), REPAIRS['exempt subjects']('A', ['Hannah']), EXEMPT_SENDERS],
  },
  'bulk-word': {
    certainty: ['proved'],
    repairs: [REPAIRS['test for bulk']('A'), EXEMPT_SENDERS, OFF, REMOVE],
  },
  'too-narrow': {
    certainty: ['observed', 'proved'],
    repairs: [
      REPAIRS['correct key']('A', ['oak'], 'key'),
      REPAIRS['correct key']('A', ['oak'], 'contains'),
      REPAIRS['correct key']('A', ['oak?'], 'pattern'),
      REPAIRS['correct key']('A', ['Ann Lee'], 'header'),
      REPAIRS['test field']('A', 'x-spam-status'),
      REPAIRS['catch list']('A', 'walkers.example'),
      REPAIRS['catch senders']('A', SENDERS),
      REPAIRS['catch domains']('A', ['people.example']),
    ],
  },
  'missing-folder': {
    certainty: ['observed'],
    repairs: [
      REPAIRS['existing folder']('A', 'Iron'),
      REPAIRS['make folder']('A', ['Suppliers/Iron']),
      REPAIRS['leave in inbox']('A'),
      OFF,
      REMOVE,
    ],
  },
  contradiction: { certainty: ['proved'], repairs: [OFF, REMOVE] },
  redundant: { certainty: ['proved', 'undecided'], repairs: [OFF, REMOVE] },
  mergeable: { certainty: ['proved'], repairs: [REPAIRS.merge('A', ['B'])] },
  'subsumed-test': {
    certainty: ['proved'],
    repairs: [
      'the key “oak”',
      'the test (the subject contains “oak”)',
      'the exception (the subject contains “oak”)',
    ].map((part) => REPAIRS['leave out']('A', part)),
  },
  'not-portable': {
    certainty: ['shown', 'observed'],
    repairs: ['On the Export page: accept the difference, leave the rule out, or keep it as a comment'],
  },
  idle: { certainty: ['proved', 'observed'], repairs: [OFF, REMOVE] },
  overlap: { certainty: ['shown'], repairs: EXEMPT_RULES },
};

/** All kinds of findings as Markdown, weightiest first: `docs/findings.md`. */
export function findingsDocument(): string {
  return `${[
    '# Findings',
    'Made from `src/core/audit/kind-words.ts` and `wording.ts` by `src/core/audit/findings-document.ts`; `npm test` compares them.',
    'Findings are ranked by consequence (mail lost, leaked, unseen, misplaced; then housekeeping), within that by the number of stored messages and how recent they are. A finding is **confirmed** when stored mail, a proof or a probe that you keep supports it, or an exception of the rule itself; otherwise an example message shows that it is **possible only**. [certainty.md](certainty.md) explains the four certainties.',
    PROOF_ASSUMES,
    ...keysOf(KINDS).map(sectionOf),
  ].join('\n\n')}\n`;
}

function sectionOf(kind: FindingKind): string {
  const { title, meaning, why, remedy, example } = KINDS[kind];
  const { certainty, repairs } = DOCUMENTED[kind];
  return [
    `## ${title}`,
    `\`${kind}\`, ${certainty.join(' or ')}. ${meaning}`,
    `**Why it matters.** ${why}`,
    `**Example.** ${example}`,
    `**What to do.** ${remedy} Repairs offered:`,
    repairs.map((repair) => `- ${repair}`).join('\n'),
  ].join('\n\n');
}
