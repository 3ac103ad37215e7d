/**
 * The views of an audit, in the order of the work: the only list, read by navigation, the command palette, titles, the
 * server's warm-up, the README's pictures and the walk through the interface.
 */
export interface View {
  /** The path below the address of the audit; the route is the folder of this path in `src/app/audits/[id]`. */
  readonly path: string;
  readonly title: string;
  /** The path of the navigation entry that the view belongs to: the view's own if the view is an entry. */
  readonly place: string;
  /** The name in the command palette. */
  readonly command: string;
  /** The path of the view that the navigation entry leads to, if that is another one. */
  readonly first?: string;
  /** A description of the view, for entries of the navigation. */
  readonly about?: string;
  /** Whether the view cannot be used in a narrow window, which it says there. */
  readonly isWide?: true;
  /** Whether the server requests the view once after start, so that the first visit is fast. */
  readonly warmUp: boolean;
  /** What the walk appends to the path in the demo; empty for the view alone. */
  readonly walked: readonly string[];
  /**
   * The name of the picture, and what is appended to the path for it in the demo: `TRACED` and `EXAMPLES` stand for
   * numbers of messages.
   */
  readonly picture?: readonly [name: string, behind: string];
}

export const VIEWS = [
  {
    path: 'gather',
    title: 'Gather',
    place: 'gather',
    command: 'Go to Gather',
    about: 'imported files',
    warmUp: true,
    walked: [''],
    picture: ['gather', ''],
  },
  {
    path: 'mailbox',
    title: 'Mailbox',
    place: 'gather',
    command: 'Fetch from a mail server',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'program',
    title: 'How the rules run',
    place: 'gather',
    command: 'How the rules run',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'chain',
    title: 'Chain',
    place: 'chain',
    command: 'Go to Chain',
    about: 'the rules in the order they run',
    warmUp: true,
    walked: [''],
    picture: ['chain', '#r8'],
  },
  {
    path: 'rule',
    isWide: true,
    title: 'Rule',
    place: 'chain',
    command: 'Add a rule at the beginning of the chain',
    warmUp: false,
    walked: ['?rule=r50'],
    picture: ['rule', '?rule=r41'],
  },
  {
    path: 'rules',
    isWide: true,
    title: 'Several rules',
    place: 'chain',
    command: 'Edit several rules at once',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'script',
    isWide: true,
    title: 'Script',
    place: 'chain',
    command: 'Edit the whole chain as Sieve',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'flows',
    title: 'Where mail goes',
    place: 'chain',
    command: 'Where mail goes',
    warmUp: true,
    walked: [''],
    picture: ['flows', ''],
  },
  {
    path: 'lists',
    title: 'Lists',
    place: 'chain',
    command: 'Lists of addresses',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'sentences',
    title: 'Sentences',
    place: 'chain',
    command: 'Type rules in as sentences',
    warmUp: false,
    walked: [''],
    picture: ['told', ''],
  },
  {
    path: 'sheet',
    isWide: true,
    title: 'Sheet',
    place: 'chain',
    command: 'Type rules in as a sheet',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'mail',
    title: 'Mail',
    place: 'mail',
    command: 'Go to Mail',
    about: 'stored messages, their folders and destinations',
    warmUp: true,
    walked: ['', '/12'],
    picture: ['mail', ''],
  },
  {
    path: 'learned',
    title: 'Rules from your filing',
    place: 'mail',
    command: 'Learn a whole set of rules from your filing',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'people',
    title: 'Correspondents',
    place: 'mail',
    command: 'Your correspondents',
    warmUp: true,
    walked: [''],
  },
  {
    path: 'probes',
    title: 'Probes',
    place: 'mail',
    command: 'Try a message',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'refile',
    title: 'Apply to stored mail',
    place: 'mail',
    command: 'Apply the chain to stored mail',
    warmUp: true,
    walked: [''],
    picture: ['refile', ''],
  },
  {
    path: 'examples',
    title: 'From examples',
    place: 'mail',
    command: 'Suggestions from your own filing',
    warmUp: true,
    walked: ['', '?messages=12,40'],
    picture: ['examples', '?messages=EXAMPLES'],
  },
  {
    path: 'plan',
    title: 'Plan',
    place: 'findings',
    command: 'Plan: what to do with the rules, in order',
    warmUp: true,
    walked: [''],
    picture: ['plan', ''],
  },
  {
    path: 'findings',
    title: 'Findings',
    place: 'findings',
    command: 'Go to Findings',
    first: 'plan',
    about: 'what is wrong or risky in the chain, and what to do',
    warmUp: true,
    walked: [''],
    picture: ['findings', '?finding=order-conflict%20r7%20r8'],
  },
  {
    path: 'findings/overlaps',
    isWide: true,
    title: 'Overlap map',
    place: 'findings',
    command: 'Overlap map: rules × rules',
    warmUp: true,
    walked: ['?a=r7&b=r8'],
    picture: ['overlaps', '?a=r7&b=r8'],
  },
  {
    path: 'findings/health',
    title: 'Overview',
    place: 'findings',
    command: 'Overview of the whole chain',
    warmUp: true,
    walked: [''],
    picture: ['health', ''],
  },
  {
    path: 'findings/together',
    title: 'Batch',
    place: 'findings',
    command: 'Batch of repairs',
    warmUp: false,
    walked: [''],
  },
  {
    path: 'changes',
    title: 'Changes',
    place: 'changes',
    command: 'Go to Changes',
    about: 'the draft compared with the imported chain',
    warmUp: true,
    walked: ['', '?before=draft&after=baseline'],
    picture: ['changes', ''],
  },
  {
    path: 'expectations',
    title: 'Expectations',
    place: 'changes',
    command: 'Expectations: what must happen to mail',
    warmUp: true,
    walked: [''],
    picture: ['expectations', ''],
  },
  {
    path: 'export',
    title: 'Export',
    place: 'export',
    command: 'Go to Export',
    about: 'the verified script',
    warmUp: true,
    walked: [''],
    picture: ['export', ''],
  },
  {
    path: 'steps',
    title: 'Steps by hand',
    place: 'export',
    command: 'Make the changes by hand, step by step',
    warmUp: false,
    walked: [''],
    picture: ['steps', ''],
  },
  {
    path: 'server',
    title: 'Server',
    place: 'export',
    command: 'Connect to a mail server',
    warmUp: false,
    walked: [''],
  },
] as const satisfies readonly View[];

export type ViewPath = (typeof VIEWS)[number]['path'];

/** The entries of the navigation. */
export const PLACES: readonly View[] = VIEWS.filter(({ path, place }) => path === place);

/** The view at a path below the address of an audit, such as `mail/12`; null for any other path. */
export function viewAt(path: string): View | null {
  const all: readonly View[] = VIEWS;
  return all.find((view) => view.path === path) ?? all.find((view) => view.path === path.split('/')[0]) ?? null;
}
