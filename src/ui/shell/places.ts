/** The places in the order of the work. */
export const PLACES = [
  { path: 'gather', name: 'Gather', about: 'what has been brought in' },
  { path: 'chain', name: 'Chain', about: 'the rules in the order in which they run' },
  { path: 'mail', name: 'Mail', about: 'stored messages, now and by the chain' },
  { path: 'findings', name: 'Findings', about: 'what the audit states about the chain' },
  { path: 'changes', name: 'Changes', about: 'the draft against what was brought in' },
  { path: 'export', name: 'Export', about: 'the script, verified' },
] as const;
