import type { Certainty, Consequence } from '../../core/audit/finding';

export const CONSEQUENCE_WORDS: Readonly<Record<Consequence, string>> = {
  lost: 'Mail lost',
  leaked: 'Mail leaked',
  unseen: 'Mail unseen',
  misplaced: 'Mail misplaced',
  clutter: 'Housekeeping',
};

/** In one word, for filters and charts. */
export const CERTAINTY_NAMES: Readonly<Record<Certainty, string>> = {
  proved: 'proved',
  shown: 'shown',
  observed: 'observed',
  undecided: 'undecided',
};

export const CERTAINTY_WORDS: Readonly<Record<Certainty, string>> = {
  proved: 'Proved: true for every possible message.',
  shown: 'Shown: the chain was run on the messages below, and it happens to each of them.',
  observed: 'Observed: true for the stored mail; other mail may differ.',
  undecided: 'Undecided: neither proved nor refuted. This does not mean that all is well.',
};
