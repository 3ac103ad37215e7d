import { type Automaton, Language } from './language';
import { isOrdered, widest } from './order-language';

/** The union of several automata of one family; throws if they are of several. */
export function union(automata: readonly Automaton[]): Automaton {
  const [first] = automata;
  if (automata.length === 1 && first) return first;
  const ordered = automata.filter(isOrdered);
  const widestOne = ordered.length === automata.length ? widest(ordered) : null;
  if (widestOne) return widestOne;
  const languages = automata.flatMap((one) => (one instanceof Language ? [one] : []));
  const [language] = languages;
  if (!language || languages.some(({ family }) => family !== language.family) || languages.length < automata.length) {
    throw new Error('automata of several families');
  }
  const patterns = languages.flatMap((one) => one.patterns);
  return new Language(language.folding, patterns, new Set(languages.flatMap(({ letters }) => [...letters])));
}
