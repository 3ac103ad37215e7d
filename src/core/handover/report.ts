import { escapeUTF8 } from 'entities';
import { counted } from '../audit/wording';
import type { OutlineLine } from '../rules/outline';
import { figure } from '../text/figure';

/** A report to read, print and share. All texts are plain. */
export interface Report {
  readonly title: string;
  /** Formatted for reading. */
  readonly date: string;
  /** Stored messages that run through the rules, and sent ones, which do not. */
  readonly total: number;
  readonly sent: number;
  /** The steps of plans that were carried out. */
  readonly plan: readonly {
    /** On whose word: a proof, the user's own filing, an answer. */
    readonly part: 'tidy' | 'mend' | 'answer';
    readonly words: string;
    readonly why: string;
    readonly effect: string;
    /** Confirmed findings that it ended; null if not counted. */
    readonly ends: number | null;
  }[];
  /** What the user answered. */
  readonly answers: readonly string[];
  /** Steps that were proposed and not wanted. */
  readonly declined: readonly { readonly title: string; readonly reason: string }[];
  /** Expectations, probes, grave findings, and why the script is exported all the same. */
  readonly gate: readonly { readonly what: string; readonly state: string }[];
  readonly rules: readonly {
    readonly number: number;
    readonly name: string;
    readonly on: boolean;
    /** What the rule does: a sentence, or several lines if much is nested. */
    readonly says: readonly OutlineLine[];
    /** Stored messages that it acts on; null if unknown. */
    readonly fired: number | null;
  }[];
  readonly findings: readonly {
    readonly kind: string;
    readonly consequence: string;
    readonly claim: string;
    readonly certainty: string;
    readonly evidence: string;
    /** Why it was set aside, or empty. */
    readonly aside: string;
  }[];
  readonly changes: readonly { readonly words: string; readonly why: string; readonly effect: string }[];
  /** Destinations before and after, of messages whose fate differs from the imported chain. */
  readonly moves: readonly { readonly from: string; readonly to: string; readonly count: number }[];
  /** The same by hand, for a program that takes no script. */
  readonly steps: readonly { readonly title: string; readonly before: string; readonly after: string }[];
  readonly target: string;
  readonly requires: readonly string[];
  readonly costs: readonly { readonly name: string; readonly words: string }[];
  readonly verification: readonly string[];
  /** What this report leaves out, or empty. */
  readonly leftOut: string;
}

/** The sections of a report: a heading, a line for an empty section, and a table. */
interface Part {
  readonly heading: string;
  readonly empty: string;
  readonly heads: readonly string[];
  /** Columns of numbers. */
  readonly numbers?: readonly number[];
  readonly rows: readonly (readonly Cell[])[];
}

/** Text, or several lines. */
type Cell = string | readonly OutlineLine[];

function partsOf(report: Report): Part[] {
  const total = figure(report.total);
  return [
    {
      heading: 'The plan, as it was carried out',
      empty: 'No step of a plan was carried out.',
      heads: ['On whose word', 'Change', 'Why', 'Effect', 'Findings resolved'],
      numbers: [4],
      rows: report.plan.map(({ part, words, why, effect, ends }) => [
        WORD[part],
        words,
        why,
        effect,
        ends === null ? '' : figure(ends),
      ]),
    },
    {
      heading: 'What the owner of the mail answered',
      empty: 'No question was answered.',
      heads: ['Answer'],
      rows: report.answers.map((words) => [words]),
    },
    {
      heading: 'Steps that were not wanted',
      empty: 'Every step that was proposed was carried out or is still open.',
      heads: ['Step', 'Why not'],
      rows: report.declined.map(({ title, reason }) => [title, reason]),
    },
    {
      heading: 'Before the export',
      empty: 'There are no expectations, no probes and no grave findings.',
      heads: ['What', 'State'],
      rows: report.gate.map(({ what, state }) => [what, state]),
    },
    {
      heading: 'The rules, in the order they run',
      empty: 'There are no rules.',
      heads: ['', 'Rule', 'What it does', `Acts on, of ${total}`],
      numbers: [0, 3],
      rows: report.rules.map(({ number, name, on, says, fired }) => [
        figure(number),
        on ? name : `${name} (off)`,
        says,
        fired === null ? '' : figure(fired),
      ]),
    },
    {
      heading: 'Findings',
      empty: 'There are no findings.',
      heads: ['Consequence', 'Kind', 'Finding', 'Certainty'],
      rows: report.findings.map(({ kind, consequence, claim, certainty, evidence, aside }) => [
        consequence,
        kind,
        aside === '' ? claim : `${claim} Set aside: ${aside}`,
        [certainty, evidence].filter((words) => words !== '').join(', '),
      ]),
    },
    {
      heading: 'Changes',
      empty: 'No rule was changed.',
      heads: ['Change', 'Why', 'Effect'],
      rows: report.changes.map(({ words, why, effect }) => [words, why, effect]),
    },
    {
      heading: 'Effect of the changes',
      empty: 'No stored message has a different destination than before.',
      heads: ['As imported', 'Now', `Messages, of ${total}`],
      numbers: [2],
      rows: report.moves.map(({ from, to, count }) => [from, to, figure(count)]),
    },
    {
      heading: 'The changes as steps by hand, in a safe order',
      empty: 'There is nothing to do by hand.',
      heads: ['', 'Step', 'Before', 'After'],
      numbers: [0],
      rows: report.steps.map(({ title, before, after }, at) => [figure(at + 1), title, before, after]),
    },
    {
      heading: `Differences in the script for ${report.target}`,
      empty: 'Every rule can be exported unchanged.',
      heads: ['Rule', 'Cost'],
      rows: report.costs.map(({ name, words }) => [name, words]),
    },
    {
      heading: 'Verification record',
      empty: 'The script was not verified.',
      heads: ['Check'],
      rows: report.verification.map((words) => [words]),
    },
  ];
}

const WORD = {
  tidy: 'proved to change nothing',
  mend: 'where the mail was kept',
  answer: 'the answer to a question',
} as const;

const factsOf = (report: Report): string =>
  [
    `${report.date}; ${counted(report.rules.length, 'rule')}, ${counted(report.total, 'stored message')}${report.sent > 0 ? `; ${counted(report.sent, 'message')} you sent are not counted` : ''}.`,
    `${counted(report.findings.length, 'finding')} confirmed by stored mail or by proof, ${figure(report.findings.filter(({ aside }) => aside !== '').length)} of them set aside; ${counted(report.changes.length, 'change')}.`,
    report.requires.length > 0
      ? `The script requires ${report.requires.join(', ')}.`
      : 'The script requires no extensions.',
    report.leftOut,
  ]
    .filter((line) => line !== '')
    .join(' ');

/** What there is nothing to tell of stands at the end. */
const tellingFirst = (parts: readonly Part[]): Part[] => [
  ...parts.filter(({ rows }) => rows.length > 0),
  ...parts.filter(({ rows }) => rows.length === 0),
];

/** One self-contained page for screen and paper. */
export function reportHtml(report: Report): string {
  const body = tellingFirst(partsOf(report)).map(({ heading, empty, heads, numbers = [], rows }) => {
    if (rows.length === 0) return `<h2>${escaped(heading)}</h2>\n<p>${escaped(empty)}</p>`;
    const kind = (at: number) => (numbers.includes(at) ? ' class="number"' : '');
    const head = heads.map((words, at) => `<th scope="col"${kind(at)}>${escaped(words)}</th>`).join('');
    const lines = rows.map(
      (cells) => `<tr>${cells.map((cell, at) => `<td dir="auto"${kind(at)}>${htmlOf(cell)}</td>`).join('')}</tr>`,
    );
    return `<h2>${escaped(heading)}</h2>\n<table>\n<thead><tr>${head}</tr></thead>\n<tbody>\n${lines.join('\n')}\n</tbody>\n</table>`;
  });
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>${escaped(report.title)}</title>
<style>${STYLE}</style>
</head>
<body>
<h1>${escaped(report.title)}</h1>
<p>${escaped(factsOf(report))}</p>
${body.join('\n')}
</body>
</html>
`;
}

const htmlOf = (cell: Cell): string =>
  typeof cell === 'string'
    ? escaped(cell)
    : cell.map(({ depth, text }) => `<div class="in${Math.min(depth, DEEPEST)}">${escaped(text)}</div>`).join('');

/** Deeper lines get no further indentation. */
const DEEPEST = 6;
const INDENTS = Array.from({ length: DEEPEST }, (_, at) => `.in${at + 1} { padding-left: ${at + 1}rem; }`).join(' ');

const STYLE = `
body { max-width: 62rem; margin: 2rem auto; padding: 0 1rem; color: #26241f; background: #fffdf8; font: 15px/1.45 sans-serif; }
h1 { font-size: 1.6rem; } h2 { margin: 1.8rem 0 .4rem; font-size: 1.1rem; }
table { width: 100%; border-collapse: collapse; }
th { text-align: left; font-weight: 400; color: #5d574a; border-bottom: 1px solid #a79c84; }
td { padding: .25rem .8rem .25rem 0; vertical-align: top; border-bottom: 1px solid #d9d0bb; overflow-wrap: anywhere; }
${INDENTS}
td:last-child { min-width: 5.5rem; }
td.number { white-space: nowrap; overflow-wrap: normal; } .number { text-align: right; }
@media print { body { margin: 0; max-width: none; background: #fff; font-size: 10pt; } tr { break-inside: avoid; } h2 { break-after: avoid; } }
`;

/** Characters not allowed in HTML are removed (HTML, section 13.2.3.5). */
const escaped = (text: string): string =>
  escapeUTF8(Array.from(text, (character) => (isControl(character) ? '' : character)).join(''));

const isControl = (character: string): boolean =>
  (character < ' ' && !/[\t\n\r]/.test(character)) || character === '\u007f';

/** The same as Markdown (CommonMark, with tables). */
export function reportMarkdown(report: Report): string {
  const body = tellingFirst(partsOf(report)).map(({ heading, empty, heads, rows }) => {
    if (rows.length === 0) return `## ${quoted(heading)}\n\n${quoted(empty)}\n`;
    const line = (cells: readonly Cell[]) => `| ${cells.map(markdownOf).join(' | ')} |`;
    return [
      `## ${quoted(heading)}\n`,
      line(heads),
      `|${heads.map(() => ' --- |').join('')}`,
      ...rows.map(line),
      '',
    ].join('\n');
  });
  return `# ${quoted(report.title)}\n\n${quoted(factsOf(report))}\n\n${body.join('\n')}`;
}

/** The lines of one cell; spaces at the beginning of a line would be lost. */
const markdownOf = (cell: Cell): string =>
  typeof cell === 'string'
    ? quoted(cell)
    : cell.map(({ depth, text }) => `${'&nbsp;'.repeat(4 * depth)}${quoted(text)}`).join('<br>');

/** Escapes everything that could be markup or leave its cell. */
const quoted = (text: string): string =>
  text
    .replace(/\s+/g, ' ')
    .replace(/[\\`*_{}[\]<>#|~&]/g, (mark) => `\\${mark}`)
    .trim();
