import { bodyTest } from './known-comparisons';
import type { TestTree } from './rule';

/** Words by which bulk mail says how to unsubscribe, in several languages (common practice). */
export const UNSUBSCRIBING_WORDS: readonly string[] = [
  'unsubscribe',
  'opt out',
  'abbestellen',
  'abmelden',
  'désabonner',
  'désinscrire',
  'desinscrire',
  'darse de baja',
  'cancelar la suscripción',
  'cancelar subscrição',
  'disiscriviti',
  'annulla iscrizione',
  'afmelden',
  'uitschrijven',
  'avregistrera',
  'avprenumerera',
  'afmeld',
  'wypisz',
  'odhlásit',
  'отписаться',
  'відписатися',
  '退订',
  '退訂',
  '配信停止',
  '購読解除',
  '수신거부',
];

/** Beginnings of the words for unsubscribing in several languages (common practice). */
export const UNSUBSCRIBING_STEMS =
  /unsubscri|opt[ -]?out|abbestell|abmeld|austragen|désabonn|desabonn|désinscri|desinscri|darse de baja|cancelar (la )?suscri|cancelar (a )?subscri|disiscri|annulla(re)? (l.)?iscrizione|afmelden|uitschrijven|avregistrera|avprenumerera|meld(e)? av|afmeld|wypisz|odhlás|leiratkoz|отпис|відпис|退订|退訂|配信停止|購読解除|수신거부/i;

/** Mail that offers a way to unsubscribe: by List-Unsubscribe (RFC 2369 section 3.2, RFC 8058), or in its text. */
export function offersUnsubscribing(words: readonly string[]): TestTree {
  const field: TestTree = { kind: 'leaf', test: { test: 'exists', headers: ['list-unsubscribe'] } };
  if (words.length === 0) return field;
  return { kind: 'any', children: [field, { kind: 'leaf', test: bodyTest({ match: 'contains', keys: words }) }] };
}
