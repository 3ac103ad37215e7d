import { type Profile, SIEVE } from './profile';
import type { Rule } from './rule';
import { isSame } from './same';
import { quoted } from './words';

/** Ways in which programs run rules, each with its name; any other is put together from their parts. */
export const PROFILES: readonly { readonly id: string; readonly title: string; readonly profile: Profile }[] = [
  { id: 'sieve', title: 'One after another, as on a mail server with Sieve', profile: SIEVE },
  {
    id: 'listed',
    title: 'One after another, until a rule says that it is the last; deleting uses a bin',
    profile: { ...SIEVE, places: 'last', delete: 'bin' },
  },
  {
    id: 'first',
    title: 'Only the first rule that matches acts',
    profile: { ...SIEVE, ending: 'first', delete: 'bin' },
  },
  {
    id: 'all',
    title: 'Every rule that matches acts, one after another; the last place counts',
    profile: { ...SIEVE, ending: 'all', places: 'last', delete: 'bin' },
  },
  {
    id: 'unordered',
    title: 'Every rule that matches acts, in no order, and mail may be in several places',
    profile: { ...SIEVE, order: 'none', ending: 'all', inbox: 'place', delete: 'bin', deleteWins: true },
  },
];

/** A profile in a few words. */
export function profileTitle(profile: Profile): string {
  const { bin } = SIEVE;
  const ready = PROFILES.find((one) => isSame({ ...one.profile, bin }, { ...profile, bin }));
  return ready?.title ?? OWN_TITLE;
}

export const OWN_TITLE = 'In another way, put together by you';

const ORDER = {
  listed: 'The rules are tried from the first to the last.',
  none: 'The rules have no order.',
} as const;

const ENDING = {
  rule: 'Each rule says whether later rules still act.',
  first: 'The first rule that matches ends it.',
  all: 'Every rule that matches acts.',
} as const;

const PLACES = {
  several: 'A message filed by several rules is in all of their folders.',
  first: 'A message is in one folder: that of the first rule that files it.',
  last: 'A message is in one folder: that of the last rule that files it.',
} as const;

const INBOX = {
  rest: 'What is filed leaves the inbox, unless a rule keeps it there.',
  place: 'What is filed stays in the inbox too, unless a rule takes it out.',
} as const;

/** The parts of a profile, each with what can be chosen, in sentences. */
export const PROFILE_PARTS = { order: ORDER, ending: ENDING, places: PLACES, inbox: INBOX } as const;

/** What deleting means, in a sentence. */
export function deletingWords({ delete: deleting, bin, deleteWins }: Profile): string {
  const means = deleting === 'bin' ? `Deleted mail goes to ${quoted(bin)}` : 'Deleted mail is gone';
  return `${means}${deleteWins ? ', even if another rule files it' : ''}.`;
}

/** A profile in sentences. */
export const profileWords = (profile: Profile): string =>
  [
    ORDER[profile.order],
    ENDING[profile.ending],
    PLACES[profile.places],
    INBOX[profile.inbox],
    deletingWords(profile),
  ].join(' ');

/** What a program cannot do of a rule, each in a sentence with the nearest that it does. */
export function cannotBeDone(rule: Rule, { order, ending }: Profile): string[] {
  const marks = rule.actions.some(({ action }) => action === 'removeflag' || action === 'setflag');
  return [
    ...(ending !== 'rule' && (rule.ending === 'stop') !== (ending === 'first')
      ? [`It cannot be said of one rule whether later rules act: ${lowered(ENDING[ending])}`]
      : []),
    ...(rule.link === 'otherwise'
      ? ['A rule cannot depend on the one before it: give it what that one tests for as exceptions.']
      : []),
    ...(order === 'none' && marks ? ['Flags cannot be removed: they are only added.'] : []),
  ];
}

const lowered = (sentence: string): string => sentence.charAt(0).toLowerCase() + sentence.slice(1);
