import { type Diagnostic, diagnostic } from './diagnostics';
import { eachString, mapStrings, stringsIn } from './strings';
import type { Script, StringArgument } from './tree';

const BLANKS = '[ \\t\\r\\n]';
const several = (one: string): string => `(?:${BLANKS}*${one}(?:${BLANKS}+${one})*${BLANKS}*)`;
/** A pair of digits for an octet may lack its first. */
const OCTETS = several('[0-9a-f]{1,2}');
const CHARACTERS = several('[0-9a-f]+');

/**
 * `${hex: 24 24}` and `${unicode: 40}` (RFC 5228 section 2.4.2.4): caseless, blanks allowed, malformed ones literal. Forms
 * for octets that touch are one, since together they may make a character.
 */
export const ENCODED = new RegExp(`(?:\\$\\{hex:${OCTETS}\\})+|\\$\\{unicode:${CHARACTERS}\\}`, 'gi');

export const requiresEncodedCharacter = (script: Script): boolean => requires(script, 'encoded-character');

export function requires(script: Script, capability: string): boolean {
  return script.commands.some(
    (statement) =>
      statement.kind === 'command' &&
      statement.name === 'require' &&
      stringsIn(statement.args).some(({ value }) => value === capability),
  );
}

/** The script with all encoded characters decoded where it requires that; the same object where it does not. */
export function decodeEncoded(script: Script): Script {
  if (!requiresEncodedCharacter(script)) return script;
  return { ...script, commands: script.commands.map((statement) => mapStrings(statement, decodeText)) };
}

/** Numbers that are no character, an error when the script is compiled. */
export function encodedFaults(script: Script): Diagnostic[] {
  if (!requiresEncodedCharacter(script)) return [];
  const faults: Diagnostic[] = [];
  const look = (item: StringArgument) => {
    for (const [found] of item.value.matchAll(ENCODED)) {
      if (maybeDecoded(found) === null) faults.push(diagnostic('bad-encoded-character', item, { found }));
    }
  };
  eachString(script.commands, look);
  return faults;
}

function decodeText(text: string): string {
  return text.replace(ENCODED, (form) => maybeDecoded(form) ?? form);
}

/** Null for numbers that are no character. */
function maybeDecoded(form: string): string | null {
  const octets = /^\$\{hex/i.test(form);
  const digits = form.replace(/\$\{(?:hex|unicode):|\}/gi, ' ').trim();
  const numbers = digits.split(/\s+/).map((part) => Number.parseInt(part, 16));
  if (octets) return new TextDecoder('utf-8', { ignoreBOM: true }).decode(Uint8Array.from(numbers));
  const valid = numbers.every((number) => number <= 0x10ffff && (number < 0xd800 || number > 0xdfff));
  return valid ? String.fromCodePoint(...numbers) : null;
}
