/** The endings of a rule, in the words of every view. */
export const ENDINGS = [
  { value: 'continue', label: 'continues' },
  { value: 'stop', label: 'stops' },
] as const;
