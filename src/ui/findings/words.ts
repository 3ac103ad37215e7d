import type { Certainty, Consequence } from '../../core/audit/finding';

export const CONSEQUENCE_WORDS: Readonly<Record<Consequence, string>> = {
  lost: 'Mail lost',
  leaked: 'Mail sent away',
  unseen: 'Mail not seen',
  misplaced: 'Mail in the wrong place',
  clutter: 'Clutter in the chain',
};

export const CERTAINTY_WORDS: Readonly<Record<Certainty, string>> = {
  proved: 'Proved: it holds for every message there could be.',
  shown: 'Shown: the chain was run on these messages, and it happens to each of them.',
  observed: 'Observed: it holds for the stored mail; other mail may differ.',
  undecided: 'Undecided: it could not be settled.',
};
