import { chainAsDocument, chainFromDocument } from '../chain-document';
import { decodeText } from '../csv';
import type { RulesForm } from './form';

/** JSON: a chain alone, or the draft of an exported audit. */
export const document: RulesForm = {
  title: 'document of rules',
  is: (fileName, head) => /\.json$/i.test(fileName) || /^(?:\u00ef\u00bb\u00bf)?\s*\{\s*"/.test(head),
  read: (octets) => {
    const source = decodeText(octets);
    const found = chainFromDocument(maybeJson(source));
    if (!found.ok) return { ok: false, reason: found.reason, place: null };
    return { ok: true, chain: found.chain, source, faults: [] };
  },
  write: chainAsDocument,
};

function maybeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
