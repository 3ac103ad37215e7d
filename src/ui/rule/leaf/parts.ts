/** The parts of an address as they are called (RFC 5228 section 2.7.4, RFC 5233). */
export const PARTS = [
  { value: 'all', label: 'whole address' },
  { value: 'localpart', label: 'before the @' },
  { value: 'domain', label: 'domain' },
] as const;

export const FURTHER_PARTS = [
  ...PARTS,
  { value: 'user', label: 'before the plus sign' },
  { value: 'detail', label: 'behind the plus sign' },
] as const;
