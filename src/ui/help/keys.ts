/** Keys that do something, by where they do. */
export const KEYS: readonly { readonly where: string; readonly keys: readonly (readonly [string, string])[] }[] = [
  {
    where: 'Everywhere',
    keys: [
      ['Ctrl K, or Cmd K', 'the commands: every page and every deed by its name'],
      ['Tab, Shift Tab', 'from one thing that can be acted on to the next'],
      ['Enter, Space', 'does it'],
      ['Esc', 'closes what has opened'],
    ],
  },
  {
    where: 'Chain',
    keys: [
      ['Arrow up, arrow down; k, j', 'the rule above, the rule below'],
      ['Alt with them', 'shows what it would do to move the rule there'],
    ],
  },
  {
    where: 'A rule',
    keys: [['Arrow up, arrow down on a handle', 'moves the test, into branches and out of them']],
  },
  {
    where: 'Which rules meet',
    keys: [
      ['Arrow keys', 'the next pair'],
      ['+ and −', 'nearer, farther'],
      ['Enter', 'opens the pair'],
    ],
  },
  {
    where: 'Sheet',
    keys: [
      ['Enter, Shift Enter', 'the cell below, the cell above'],
      ['Tab', 'the next cell'],
      ['Paste', 'fills as many cells as were copied'],
    ],
  },
];
