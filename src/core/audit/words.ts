import type { FindingKind } from './finding';

/** The kinds, the weightiest first, with what each one says in general. */
export const KINDS: Readonly<Record<FindingKind, { readonly title: string; readonly meaning: string }>> = {
  contradiction: {
    title: 'Cannot hold',
    meaning: 'No message there could be makes the tests of the rule hold with none of its exceptions.',
  },
  shadowed: {
    title: 'Never reached',
    meaning: 'The rule can hold, but earlier rules always end such mail first.',
  },
  'order-conflict': {
    title: 'Order decides',
    meaning: 'Two rules hold for the same mail, and where it ends depends on which of them comes first.',
  },
  'runs-on': {
    title: 'Runs on',
    meaning: 'An earlier rule lets later rules run, and one of them treats the same mail differently.',
  },
  overlap: {
    title: 'Overlap',
    meaning: 'Two rules hold for the same mail. Often meant; worth knowing before either is changed.',
  },
};
