/** The places in the order of the work, each with the pages that belong to it beside its own. */
export const PLACES = [
  { path: 'gather', name: 'Gather', about: 'what has been brought in', pages: [] },
  {
    path: 'chain',
    name: 'Chain',
    about: 'the rules in the order in which they run',
    pages: ['rule', 'rules', 'script', 'flows', 'lists', 'sheet'],
  },
  {
    path: 'mail',
    name: 'Mail',
    about: 'stored messages, now and by the chain',
    pages: ['people', 'probes', 'refile', 'examples'],
  },
  { path: 'findings', name: 'Findings', about: 'what the audit states about the chain', pages: [] },
  {
    path: 'changes',
    name: 'Changes',
    about: 'the draft against what was brought in',
    pages: ['expectations'],
  },
  { path: 'export', name: 'Export', about: 'the script, verified', pages: ['server'] },
] as const satisfies readonly {
  readonly path: string;
  readonly name: string;
  readonly about: string;
  readonly pages: readonly string[];
}[];
