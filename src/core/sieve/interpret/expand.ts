import { type Run, ScriptError } from './run';

/** RFC 5229 section 3 asks for 4000 octets at least; longer values are cut, so that no script grows without bound. */
const VALUE_LIMIT = 64 * 1024;
/** Characters of all values together. */
const ALL_VALUES = 4 * 1024 * 1024;
/** RFC 5229 section 3: `${name}`, `${namespace.name}` or `${1}`. */
export const REFERENCE = /\$\{([A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z_][A-Za-z0-9_]*)*|[0-9]+)\}/g;

export const hasReferences = (text: string): boolean => /\$\{(?:[A-Za-z_]|[0-9]+\})/.test(text);

/** Puts values in place of `${name}` and `${1}`; unknown names give nothing (RFC 5229 section 3). Only one pass is made. */
export function expand(text: string, run: Run): string {
  if (!text.includes('${')) return text;
  // What is beyond the limit is not put together first: a text may name a long value a million times.
  let length = 0;
  const put = text.replace(REFERENCE, (_whole, name: string) => {
    const value = length > VALUE_LIMIT ? '' : readVariable(name, run);
    length += value.length;
    return value;
  });
  return put.slice(0, VALUE_LIMIT);
}

export function readVariable(name: string, run: Run): string {
  const { variables } = run;
  if (/^[0-9]/.test(name)) return variables.matches[Number(name)] ?? '';
  const lower = name.toLowerCase();
  if (lower.startsWith('global.')) return variables.globals.get(lower.slice('global.'.length)) ?? '';
  const from = variables.declared.has(lower) ? variables.globals : variables.values;
  return from.get(lower) ?? '';
}

export function writeVariable(name: string, value: string, run: Run): void {
  const { variables } = run;
  const lower = name.toLowerCase();
  const cut = value.slice(0, VALUE_LIMIT);
  variables.length += cut.length - readVariable(lower, run).length;
  if (variables.length > ALL_VALUES) throw new ScriptError('variables hold more than 4 MB of text');
  if (lower.startsWith('global.')) variables.globals.set(lower.slice('global.'.length), cut);
  else if (variables.declared.has(lower)) variables.globals.set(lower, cut);
  else variables.values.set(lower, cut);
}
