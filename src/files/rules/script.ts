import { chainFromSieve } from '../../core/rules/from-sieve';
import { sieveFromChain } from '../../core/rules/to-sieve';
import { wordsOf } from '../../core/sieve/diagnostics';
import { decodeScript, isXml, scriptText } from '../../core/sieve/script-text';
import { writeXml } from '../../core/sieve/xml';
import { LineIndex } from '../../core/text/span';
import type { ReadRules, RulesForm } from './form';

/** Sieve (RFC 5228), and the same in XML (RFC 5784). */
function read(octets: Uint8Array): ReadRules {
  const { source: given, diagnostics } = decodeScript(octets);
  const text = scriptText(given);
  if (!text.ok) return { ok: false, reason: text.message, place: [text.line, text.column] };
  const { source } = text;
  const { chain, places, diagnostics: found } = chainFromSieve(source);
  const lines = new LineIndex(source);
  const faults = [...diagnostics, ...found]
    .sort((a, b) => a.span.start - b.span.start)
    .map((fault) => {
      const { line, column } = lines.position(fault.span.start);
      const entry = places.findIndex(({ start, end }) => start <= fault.span.start && fault.span.start < end);
      return { at: `${line}:${column}`, words: wordsOf(fault), entry: entry < 0 ? null : entry };
    });
  return { ok: true, chain, source, faults };
}

export const xml: RulesForm = {
  title: 'script in XML',
  is: (_, head) => isXml(head),
  read,
  write: (chain) => {
    const { script, text } = sieveFromChain(chain);
    return writeXml({ ...script, source: text });
  },
};

export const sieve: RulesForm = {
  title: 'Sieve script',
  is: () => true,
  read,
  write: (chain) => sieveFromChain(chain).text,
};
