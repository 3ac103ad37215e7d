/** Keyboard shortcuts by where they work. */
export const KEYS: readonly { readonly where: string; readonly keys: readonly (readonly [string, string])[] }[] = [
  {
    where: 'Everywhere',
    keys: [
      ['Ctrl K, or Cmd K', 'finds rules, folders, messages, findings, pages and actions'],
      ['Tab, Shift Tab', 'to the next or previous control'],
      ['Enter, Space', 'activates the control'],
      ['Esc', 'closes the open panel'],
    ],
  },
  {
    where: 'Chain',
    keys: [
      ['Arrow up, arrow down; k, j', 'the rule above, the rule below'],
      ['Alt with them', 'previews moving the rule there'],
      ['Ctrl F, or Cmd F', 'finds rules by their words; Enter and Shift Enter: the next, the one before'],
    ],
  },
  {
    where: 'A rule',
    keys: [['Arrow up, arrow down on a handle', 'moves the test, into and out of groups']],
  },
  {
    where: 'Overlap map',
    keys: [
      ['Arrow keys', 'the next pair'],
      ['+ and −', 'zoom in, zoom out'],
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
