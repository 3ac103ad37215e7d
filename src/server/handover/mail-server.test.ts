import { afterEach, describe, expect, test } from 'vitest';
import { audit, fill, id, job, runner, simulated, store, withAudit, work } from '../../../test/harness';
import { ServerRefusal } from '../../managesieve/client';
import { NO_FAULTS, STAND_IN, StandIn } from '../../standins/managesieve';
import { Refusal } from '../audits/audits';
import { perform } from '../jobs/perform';
import { dryRun } from './dry-run';
import { verifiedScript } from './export-view';
import { handoverSettings, listHanded } from './handover';
import { askServer, type Login, type ServerRequest, type ServerView } from './mail-server';

withAudit();

let server: StandIn | null = null;
afterEach(async () => {
  await server?.close();
});

const OLD = 'require "fileinto";\r\n# Old\r\nif exists "x-old" { fileinto "Old"; }\r\n';

async function played(): Promise<{
  standIn: StandIn;
  ask: (request: ServerRequest, change?: Partial<Login>) => Promise<ServerView>;
}> {
  const standIn = new StandIn({ ...STAND_IN, security: 'plain', scripts: [{ name: 'old', text: OLD, active: true }] });
  server = standIn;
  const port = await standIn.listen();
  const login: Login = {
    host: '127.0.0.1',
    port,
    security: 'plain',
    trusted: null,
    user: STAND_IN.user,
    password: STAND_IN.password,
  };
  return {
    standIn,
    ask: async (request, change = {}) => {
      const answer = await askServer(store, runner, id, { ...login, ...change }, request);
      if ('untrusted' in answer) throw new Error('not trusted');
      return answer;
    },
  };
}

describe('a server of scripts', () => {
  test('is looked at, its scripts are brought in, and what it has becomes the target', async () => {
    const { ask, standIn } = await played();
    expect((await ask({ ask: 'look' })).scripts).toEqual([{ name: 'old', active: true }]);
    expect((await ask({ ask: 'fetch', names: ['old'] })).done).toBe('“old.sieve”: 1 rule.');
    expect(audit().draft.entries.map(({ name }) => name)).toEqual(['Old']);
    await expect(ask({ ask: 'fetch', names: ['none'] })).rejects.toThrow('There is no such script. (NONEXISTENT)');
    const again = 'The same file was imported before, as “old.sieve”.';
    await expect(ask({ ask: 'fetch', names: ['old'] })).rejects.toThrow(again);
    standIn.scripts.set('new', OLD.replaceAll('Old', 'New'));
    expect((await ask({ ask: 'fetch', names: ['old', 'new'] })).done).toBe(`“new.sieve”: 1 rule. ${again}`);
    expect(audit().draft.entries.map(({ name }) => name)).toEqual(['Old', 'New']);
    await ask({ ask: 'target' });
    expect(handoverSettings(store, id)).toMatchObject({
      target: 'own',
      capabilities: STAND_IN.sieve,
      limits: { redirects: 5 },
    });
  });

  test('gets the verified script under a new name, lets it run, and goes back', async () => {
    const { standIn, ask } = await played();
    await fill();
    await expect(ask({ ask: 'put', name: 'new' })).rejects.toThrow('not verified yet');
    expect([...standIn.scripts.keys()]).toEqual(['old']);
    await ask({ ask: 'target' });
    await simulated();
    await perform(store, job(), { kind: 'verify' });
    await expect(ask({ ask: 'put', name: 'old' })).rejects.toThrow('was not changed');
    expect((await ask({ ask: 'put', name: 'new' })).done).toContain('It is not active yet.');
    expect(standIn.scripts.get('new')).toBe(verifiedScript(store, id));
    expect([standIn.active, listHanded(store, id)[0]?.place]).toEqual(['old', '127.0.0.1, as “new”']);
    expect(await ask({ ask: 'activate', name: 'new' })).toMatchObject({ done: '“new” is active now.', before: 'old' });
    await ask({ ask: 'activate', name: 'old' });
    expect(standIn.active).toBe('old');
    await work();
  });

  test('is asked for a dry run first, and its answer is told; nothing is stored by it', async () => {
    const { standIn, ask } = await played();
    await fill();
    await simulated();
    const verify = () => perform(store, job(), { kind: 'verify' });
    // Connecting makes it the target, for which the script was not verified yet.
    await verify();
    expect(await ask({ ask: 'look' })).toMatchObject({ isTarget: true, script: { is: 'not verified' } });
    await verify();
    expect(await ask({ ask: 'look' })).toMatchObject({ isTarget: true, script: { is: 'accepted', answer: '' } });
    standIn.faults = { ...NO_FAULTS, refuses: 'CHECKSCRIPT' };
    expect((await ask({ ask: 'look' })).script).toEqual({
      is: 'rejected',
      answer: 'line 1: this script is not accepted.\r\nline 2: nor is this line.',
      lacks: [],
    });
    standIn.faults = { ...NO_FAULTS, drops: 'CHECKSCRIPT' };
    await expect(ask({ ask: 'look' })).rejects.toThrow(Refusal);
    standIn.faults = NO_FAULTS;
    expect([...standIn.scripts.keys()]).toEqual(['old']);
    expect(await ask({ ask: 'put', name: 'new' })).toMatchObject({ uploaded: 'new', script: { is: 'accepted' } });
  });

  test('from before RFC 5804 is not asked for a dry run; one that lacks something is told apart', async () => {
    const capabilities = { implementation: '', sieve: ['fileinto'], sasl: [], starttls: false, maxRedirects: null };
    const ready = { is: 'ready', text: 'require "copy";', requires: ['fileinto', 'copy'] } as const;
    const says = (version: string | null) => ({
      capabilities: { ...capabilities, version },
      check: () => Promise.reject(new ServerRefusal('NO', null, 'copy is unknown', null)),
    });
    expect(await dryRun(ready, says(null))).toEqual({ is: 'not checkable' });
    expect(await dryRun(ready, says('1.0'))).toEqual({ is: 'rejected', answer: 'copy is unknown', lacks: ['copy'] });
  });

  test('that refuses, breaks off or does not know the user changes nothing', async () => {
    const { standIn, ask } = await played();
    await fill();
    await perform(store, job(), { kind: 'verify' });
    await expect(ask({ ask: 'look' }, { password: 'wrong' })).rejects.toThrow('User or password is wrong.');
    standIn.faults = { ...NO_FAULTS, refuses: 'PUTSCRIPT' };
    await expect(ask({ ask: 'put', name: 'new' })).rejects.toThrow('line 2: nor is this line.');
    standIn.faults = { ...NO_FAULTS, drops: 'PUTSCRIPT' };
    await expect(ask({ ask: 'put', name: 'new' })).rejects.toThrow(Refusal);
    expect([[...standIn.scripts.keys()], standIn.active, listHanded(store, id)]).toEqual([['old'], 'old', []]);
    standIn.faults = { ...NO_FAULTS, refers: 'sieve://other.example' };
    await expect(ask({ ask: 'look' })).rejects.toThrow('The server refers you to sieve://other.example.');
  });
});
