import { describe, expect, test } from 'vitest';
import { chainFromSieve } from '../../rules/from-sieve';
import { prepareScript } from '../prepare';
import { DEFAULT_CHOICES } from '../rewrite';
import { NO_LIMITS, type Target } from '../target';

const server = (capabilities: readonly string[]): Target => ({ id: 'own', capabilities, limits: NO_LIMITS });

describe('answers', () => {
  /** An action rewritten for a target without some capability, and the declared difference. */
  const answered = (action: string, capabilities: readonly string[]) => {
    const requires = ['vacation', 'vacation-seconds', 'enotify', 'fileinto'];
    const script = `require ${JSON.stringify(requires)};\n# A\nif exists "subject" { ${action} }\n`;
    const { text, costs } = prepareScript(chainFromSieve(script).chain, server(capabilities), DEFAULT_CHOICES);
    const body = /\{\n([\s\S]*?)\n\}/.exec(text)?.[1] ?? '';
    return [body.replace(/\s+/g, ' ').trim(), ...costs.map(({ words }) => words)];
  };
  const IN_A_DAY = 'each sender gets at most one reply a day';

  test.each([
    [':seconds 1800', ':days 1', IN_A_DAY],
    [':seconds 0', ':days 1', IN_A_DAY],
    [':seconds 86400', ':days 1'],
    [':seconds 86401', ':days 2', IN_A_DAY],
    [':seconds 604800', ':days 7'],
    // 1 MB of seconds: 12.1 days.
    [':seconds 1M', ':days 13', IN_A_DAY],
  ])('RFC 6131: %s is %s', (seconds, days, ...costs) => {
    const [said, ...paid] = answered(`vacation ${seconds} "away";`, ['vacation']);
    expect([said, paid]).toEqual([`vacation ${days} "away";`, costs]);
  });

  test('words that read like a period are words', () => {
    const [said] = answered('vacation :subject "in :seconds 5" :seconds 172800 "write :seconds 10 later";', [
      'vacation',
    ]);
    expect(said).toBe('vacation :days 2 :subject "in :seconds 5" "write :seconds 10 later";');
    expect(answered('vacation "not :seconds 5";', ['vacation'])).toEqual(['vacation "not :seconds 5";']);
  });

  test('RFC 5230, RFC 5435: without them no automatic reply is sent or told, and all else is done', () => {
    expect(answered('vacation "away"; fileinto "A";', ['fileinto'])).toEqual([
      'fileinto "A";',
      'no automatic reply is sent',
    ]);
    expect(answered('notify "mailto:a@x.example"; fileinto "A";', ['fileinto'])).toEqual([
      'fileinto "A";',
      'no notification is sent',
    ]);
  });
});

describe('folders', () => {
  /**
   * An action rewritten for a target with some capabilities, the declared difference, and the folders to be created by
   * hand.
   */
  const filed = (action: string, capabilities: readonly string[]) => {
    const requires = ['fileinto', 'mailbox', 'special-use', 'copy'];
    const script = `require ${JSON.stringify(requires)};\n# A\nif exists "subject" { ${action} }\n`;
    const { text, costs, folders } = prepareScript(chainFromSieve(script).chain, server(capabilities), DEFAULT_CHOICES);
    const body = /\{\n([\s\S]*?)\n\}/.exec(text)?.[1] ?? '';
    return [body.replace(/\s+/g, ' ').trim(), costs.map(({ words }) => words).join('; '), folders.join(' ')];
  };

  test.each([
    ['fileinto :create "A";', ['fileinto', 'mailbox'], 'fileinto :create "A";', '', 'A'],
    ['fileinto :create "A";', ['fileinto'], 'fileinto "A";', 'its folders must be created by hand', 'A'],
    [
      'fileinto :copy :create "say :create";',
      ['fileinto', 'copy'],
      'fileinto :copy "say :create";',
      'its folders must be created by hand',
      'say :create',
    ],
    [
      'fileinto :specialuse "\\\\Archive" :create ":specialuse \\"x\\"";',
      ['fileinto', 'mailbox'],
      'fileinto :create ":specialuse \\"x\\"";',
      'the folder is found by its name only',
      ':specialuse "x"',
    ],
  ])('RFC 5490, RFC 8579: %s for %j', (action, capabilities, said, cost, folders) => {
    expect(filed(action, capabilities)).toEqual([said, cost, folders]);
  });

  test('without fileinto what is filed stays in the inbox, whether the folder would be made or not', () => {
    const [said, cost, folders] = filed('fileinto :create "A";', []);
    expect([said, folders]).toEqual(['keep;', '']);
    expect(cost).toContain('the filed mail stays in the inbox');
  });
});
