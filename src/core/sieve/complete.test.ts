import { describe, expect, test } from 'vitest';
import { maybeCompletions } from './complete';

/** The labels at `|`, and the words they replace. */
function at(marked: string): { labels: string[]; replaces: string } | null {
  const offset = marked.indexOf('|');
  const source = marked.replace('|', '');
  const found = maybeCompletions(source, offset);
  return found && { labels: found.options.map(({ label }) => label), replaces: source.slice(found.from, offset) };
}

describe('what may stand at a place', () => {
  test.each([
    ['|', 'fileinto', '', 'header'],
    ['fi|', 'fileinto', 'fi', 'header'],
    ['keep; if true { fi|', 'fileinto', 'fi', 'header'],
    ['if |', 'header', '', 'fileinto'],
    ['if not he|', 'header', 'he', 'fileinto'],
    ['if anyof (true, |', 'address', '', 'keep'],
    ['if allof (header :is ["a", "b"] "c", |) { keep; }', 'exists', '', 'keep'],
    ['fileinto |', ':copy', '', ':localpart'],
    ['if header :|', ':contains', ':', ':localpart'],
    ['if address :dom|', ':domain', ':dom', ':copy'],
    ['if address :domain :|', ':contains', ':', ':localpart'],
    ['require "|', 'imap4flags', '', 'oak'],
    ['require ["fileinto", "im|', 'imap4flags', 'im', 'oak'],
    ['if header :comparator "|', 'i;octet', '', 'imap4flags'],
    ['if header :value "|', 'ge', '', 'i;octet'],
    ['vacation :fcc "Sent" :|', ':create', ':', ':fcc'],
    ['# a comment\n|', 'keep', '', 'header'],
  ])('%s', (marked, offered, replaces, not) => {
    const found = at(marked);
    expect(found?.labels).toContain(offered);
    expect(found?.labels).not.toContain(not);
    expect(found?.replaces).toBe(replaces);
  });

  test.each(['# a comm|', '/* a |', 'keep "x"|', 'vacation text:\nhello |'])('nothing is offered: %s', (marked) => {
    expect(at(marked)).toBe(null);
  });

  test.each(['if header "subject" "|', 'vanish |', 'vacation :|'])(
    'nothing beyond what the table knows: %s',
    (marked) => {
      expect(at(marked)?.labels).not.toContain(':create');
      expect(at(marked)?.labels).not.toContain('header');
    },
  );
});
