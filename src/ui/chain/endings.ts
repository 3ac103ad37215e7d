/** What follows once a rule has acted, in the words of every view. */
export const ENDINGS = [
  { value: 'continue', label: 'later rules still run' },
  { value: 'stop', label: 'it ends here' },
] as const;
