import { demoMail } from '../demo/mail';
import { Dice } from '../demo/random';
import type { Chain, ChainEntry, TestTree } from '../src/core/rules/rule';

/** Generated rules and mail of any size, the same in every run. */

const WORDS = [
  'oak',
  'lime',
  'weir',
  'sluice',
  'beam',
  'mortar',
  'rota',
  'grant',
  'photo',
  'invoice',
  'planning',
  'school',
];
const DOMAINS = [
  'calderoak',
  'stanhopelime',
  'riverlevels',
  'dalecouncil',
  'hollinweir',
  'millers',
  'ironwork',
  'archive',
];

/**
 * A script with typical rules: most test one header field, a few the body. `stopping` is the share that stops; with
 * `plain`, only the core language and fileinto.
 */
export function madeUpScript(rules: number, stopping = 0.33, plain = false): string {
  const dice = new Dice(5228);
  const lines = [plain ? 'require "fileinto";' : 'require ["fileinto", "imap4flags", "body"];'];
  for (let n = 1; n <= rules; n++) {
    const word = () => `${dice.pick(WORDS)}${dice.chance(0.7) ? ` ${dice.between(1, 400)}` : ''}`;
    const domain = () => `${dice.pick(DOMAINS)}${dice.chance(0.8) ? dice.between(1, 60) : ''}.example`;
    const test = [
      () => `header :contains "subject" ["${word()}", "${word()}"]`,
      () => `header :contains ["subject", "x-tag"] "${word()}"`,
      () => `address :domain :is "from" "${domain()}"`,
      () => `address :is ["from", "sender"] ["office@${domain()}", "sales@${domain()}"]`,
      () => `allof (address :contains "to" "${dice.pick(DOMAINS)}", not header :contains "subject" "${word()}")`,
      () => `header :matches "subject" "*${word()}*${dice.pick(WORDS)}*"`,
      () => `header :contains "list-id" "${domain()}"`,
      () => `anyof (exists "x-tag-${n}", header :is "x-tag" "${word()}")`,
      () => `size :over ${dice.between(1, 400)}K`,
    ][n % 9];
    const body = n % 50 === 0 && !plain ? `allof (${test?.()}, body :contains "${word()}")` : test?.();
    const action = dice.chance(0.15) && !plain ? 'addflag "\\\\Flagged";' : `fileinto "${dice.pick(WORDS)}/${n % 40}";`;
    lines.push(`# Rule ${n}`, `if ${body} {`, `    ${action}`, ...(dice.chance(stopping) ? ['    stop;'] : []), '}');
  }
  return `${lines.join('\n')}\n`;
}

/**
 * A chain of the forms that the demo's rules have, which are those of people: its rules again and again, about other
 * domains and words each time.
 */
export function demoLikeChain({ entries, closing }: Chain, rules: number): Chain {
  return {
    closing,
    entries: Array.from({ length: rules }, (_, n): ChainEntry => {
      const entry = entries[n % entries.length];
      const round = Math.floor(n / entries.length);
      if (!entry) throw new Error('a chain without rules');
      const named = { id: `r${n + 1}`, name: round === 0 ? entry.name : `${entry.name} ${round}` };
      if (entry.kind === 'script' || round === 0) return { ...entry, ...named };
      const unless = entry.unless.map((tree) => about(tree, round));
      return { ...entry, ...named, tests: about(entry.tests, round), unless };
    }),
  };
}

function about(tree: TestTree, round: number): TestTree {
  if (tree.kind !== 'leaf') return { ...tree, children: tree.children.map((child) => about(child, round)) };
  const { test } = tree;
  if (test.test !== 'header' && test.test !== 'address') return tree;
  const keys = test.keys.map((key) => {
    if (key.includes('.example')) return key.replace('.example', `${round}.example`);
    return key.length < 3 ? key : key.replace(/\*?$/, ` ${round}$&`);
  });
  return { kind: 'leaf', test: { ...test, keys } };
}

/** Messages of about two kilobytes, without attachments. */
export function* madeUpMail(count: number): Generator<{ fromLine: string; raw: Uint8Array }> {
  const short = demoMail(6000).filter(({ raw }) => raw.length < 2500);
  const line = 'The river runs past the old mill and its weir, and the oak beams dry in the yard';
  const encoder = new TextEncoder();
  for (let n = 0; n < count; n++) {
    const { fromLine, raw } = short[n % short.length] as (typeof short)[number];
    const own = encoder.encode(`${line}, as note ${n} says.\n`.repeat(14));
    const longer = new Uint8Array(raw.length + own.length);
    longer.set(raw);
    longer.set(own, raw.length);
    yield { fromLine, raw: longer };
  }
}
