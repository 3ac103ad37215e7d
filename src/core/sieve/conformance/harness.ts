import { type Envelope, envelopeOf, readMessage } from '../../mail/message';
import { check } from '../check';
import type { DiagnosticCode } from '../diagnostics';
import { interpreter } from '../interpret/interpret';
import { makeWorld, type World } from '../interpret/world';
import { capabilities } from '../language/table';
import { parse } from '../parse';

/** Helpers of the tables in this folder. Sections are given from memory of the standards. */

/**
 * Everything is required, so that rows can be short. `variables` and `encoded-character` change strings: see `plain`.
 */
const REQUIRE_ALL = `require [${[...capabilities].map((name) => `"${name}"`).join(', ')}];\n`;
const REQUIRE_PLAIN = `require [${[...capabilities]
  .filter((name) => name !== 'variables' && name !== 'encoded-character')
  .map((name) => `"${name}"`)
  .join(', ')}];\n`;

export interface Setting {
  readonly world?: Partial<World>;
  readonly envelope?: Partial<Envelope>;
  /** Without variables and encoded characters. */
  readonly plain?: boolean;
}

export const faultCodes = (script: string): DiagnosticCode[] => {
  const { script: tree, diagnostics } = parse(script);
  return [...diagnostics, ...check(tree)].map(({ code }) => code);
};

/**
 * The result of a script on a message in short form: folders with flags in brackets, `>` before a redirect, `refused`,
 * `dropped`, `~` before a reply, `!` before an error.
 */
export function outcomeOf(script: string, message: string, { world, envelope, plain }: Setting = {}): string {
  const source = (plain ? REQUIRE_PLAIN : REQUIRE_ALL) + script;
  const { script: tree, diagnostics } = parse(source);
  const faults = [...diagnostics, ...check(tree)].filter(({ code }) => code !== 'conflicting-actions');
  if (faults.length > 0) return `faults: ${faults.map(({ code }) => code).join(', ')}`;
  const read = readMessage(new TextEncoder().encode(message));
  const path = { ...envelopeOf(read, 'me@mill.example'), ...envelope };
  const { fate, error } = interpreter(tree)(read, path, { world: makeWorld(world) });
  const parts = [
    ...fate.deliveries.map(({ folder, flags }) => (flags.length > 0 ? `${folder}[${flags.join(' ')}]` : folder)),
    ...fate.redirects.map((address) => `>${address}`),
    ...(fate.rejected ? ['refused'] : []),
    ...fate.replies.map((line) => `~${line}`),
    ...(error === null ? [] : [`!${error}`]),
  ];
  return parts.length === 0 ? 'dropped' : parts.join(' ');
}

/** Whether a test is true for a message. */
export function holds(test: string, message: string, setting: Setting = {}): boolean {
  const outcome = outcomeOf(`if ${test} { discard; }`, message, setting);
  if (outcome !== 'dropped' && outcome !== 'INBOX') throw new Error(`${test}: ${outcome}`);
  return outcome === 'dropped';
}
