const quoted = (name: string): string => `“${name}”`;
const rules = (count: number): string => (count === 1 ? '1 rule' : `${count} rules`);

/** The sentences of a plan. */
export const PLAN_WORDS = {
  question: (subject: string, sender: string): string => {
    const message = subject === '' ? 'a message without a subject' : quoted(subject);
    return `Where does ${message}${sender === '' ? '' : ` from ${sender}`} belong?`;
  },
  'never acts': (name: string): string => `Remove ${quoted(name)}, which never acts`,
  'leave out': (name: string, parts: readonly string[]): string =>
    `In ${quoted(name)}, remove ${parts.length === 1 ? parts[0] : `${parts.length} superfluous parts`}`,
  'sort keys': (count: number): string => `Sort the keys of ${rules(count)}`,
  'name rules': (count: number): string => `Name ${rules(count)} after what they are about`,
} as const;
