import type { Run } from './run';

/** RFC 5229 section 3 asks for 4000 octets at least; longer values are cut, so that no script grows without bound. */
const VALUE_LIMIT = 64 * 1024;
/** RFC 5229 section 3: `${name}`, `${namespace.name}` or `${1}`. */
export const REFERENCE = /\$\{([A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z_][A-Za-z0-9_]*)*|[0-9]+)\}/g;

export const hasReferences = (text: string): boolean => /\$\{(?:[A-Za-z_]|[0-9]+\})/.test(text);

/** Puts values in place of `${name}` and `${1}`; unknown names give nothing (RFC 5229 section 3). Only one pass is made. */
export function expand(text: string, run: Run): string {
  if (!text.includes('${')) return text;
  return text.replace(REFERENCE, (_whole, name: string) => readVariable(name, run)).slice(0, VALUE_LIMIT);
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
  if (lower.startsWith('global.')) variables.globals.set(lower.slice('global.'.length), cut);
  else if (variables.declared.has(lower)) variables.globals.set(lower, cut);
  else variables.values.set(lower, cut);
}
