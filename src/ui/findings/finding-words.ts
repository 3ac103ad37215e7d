import type { Certainty, Consequence } from '../../core/audit/finding';

export const CONSEQUENCE_WORDS: Readonly<Record<Consequence, string>> = {
  lost: 'Mail lost',
  leaked: 'Mail sent away',
  unseen: 'Mail not seen',
  misplaced: 'Mail in the wrong place',
  clutter: 'Clutter in the chain',
};

/** In one word, for filters and charts. */
export const CERTAINTY_NAMES: Readonly<Record<Certainty, string>> = {
  proved: 'proved',
  shown: 'shown',
  observed: 'observed',
  undecided: 'undecided',
};

export const CERTAINTY_WORDS: Readonly<Record<Certainty, string>> = {
  proved: 'Proved: it holds for every message there could be.',
  shown: 'Shown: the chain was run on the mail below, and it happens to each message.',
  observed: 'Observed: it holds for the stored mail; other mail may differ.',
  undecided: 'Undecided: it could not be settled. That does not mean that all is well.',
};
