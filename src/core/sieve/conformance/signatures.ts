import type { CommandDefinition, Parameter, TestDefinition } from '../language/definition';
import { capabilitiesOf } from '../language/table';

/** Argument values that pass all checks. */
const VALUES: Readonly<Record<string, string>> = {
  address: '"a@x.example"',
  method: '"mailto:a@x.example"',
  'date-part': '"year"',
  'envelope-part': '"from"',
  name: '"name"',
};

function sampleOf({ name, type }: Parameter): string {
  if (type === 'number') return '1';
  return VALUES[name] ?? (type === 'string-list' ? '["a", "b"]' : '"a"');
}

/** A script with the simplest form of a command or test, with or without its require. */
export function printSignature(
  row: CommandDefinition | TestDefinition,
  form: 'whole' | 'no capability' | 'no arguments' | 'unknown tag',
): string {
  const needed = form === 'no capability' ? [] : capabilitiesOf(row).slice(0, 1);
  const head = needed.length > 0 ? `require "${needed[0]}";\n` : '';
  const required = row.tagGroups.filter((group) => group.required).map((group) => `:${group.tags[0]?.tag}`);
  const args = form === 'no arguments' ? [] : row.positional.filter(({ optional }) => !optional).map(sampleOf);
  const unknown = form === 'unknown tag' ? [':zzz'] : [];
  const inner = { none: [], one: ['true'], many: ['(true, false)'] }[row.subtests];
  const text = [row.name, ...required, ...unknown, ...args, ...inner].join(' ');
  if (row.kind === 'test') return `${head}if ${text} { keep; }`;
  if (row.name === 'break')
    return `require "foreverypart";\nforeverypart { ${text}; }`.replace(
      'require "foreverypart";\n',
      form === 'no capability' ? '' : 'require "foreverypart";\n',
    );
  return `${head}${text}${row.block ? ' { keep; }' : ';'}`;
}
