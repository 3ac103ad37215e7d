import { useEffect, useRef, useState } from 'react';
import type { Login, ServerRequest, ServerView, Untrusted } from '../../server/handover/mail-server';
import { serverAnswer } from '../../server/http/answers';
import { call } from '../common/api';
import { verify } from '../common/verify';

/** What is known of the server, and what is being asked. */
export interface Connection {
  readonly view: ServerView | null;
  readonly untrusted: Untrusted['untrusted'] | null;
  readonly failure: string | null;
  readonly busy: 'asking' | 'verifying' | null;
}

const NOTHING: Connection = { view: null, untrusted: null, failure: null, busy: null };

/**
 * Requests to a mail server. A script that was never verified for it is verified after the first answer, and the server
 * is asked once more, since it can be tried only then.
 */
export function useServer(auditId: string) {
  const [connection, set] = useState<Connection>(NOTHING);
  const isShown = useRef(true);
  useEffect(() => {
    isShown.current = true;
    return () => {
      isShown.current = false;
    };
  }, []);
  const ask = async (login: Login, request: ServerRequest): Promise<void> => {
    const asked = async (one: ServerRequest) =>
      serverAnswer.parse(await call(`/api/audits/${auditId}/server`, 'POST', { login, request: one }));
    set((now) => ({ ...now, failure: null, busy: 'asking' }));
    try {
      const answer = await asked(request);
      if ('untrusted' in answer) return set({ ...NOTHING, untrusted: answer.untrusted });
      const isUnverified = answer.script.is === 'not verified';
      set({ ...NOTHING, view: answer, busy: isUnverified ? 'verifying' : null });
      if (!isUnverified) return;
      await verify(auditId, () => isShown.current);
      if (!isShown.current) return;
      const again = await asked({ ask: 'look' });
      const { done, before } = answer;
      if (!('untrusted' in again)) set({ ...NOTHING, view: { ...again, done, before } });
    } catch (error) {
      const failure = error instanceof Error ? error.message : String(error);
      set((now) => ({ ...now, failure, busy: null }));
    }
  };
  return { connection, ask, forget: () => set(NOTHING) };
}
