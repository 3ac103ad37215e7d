import { startedAnswer } from '../../server/http/answers';
import { call } from './api';
import { jobEnded } from './jobs';

/** Verifies the script of an audit; throws if that failed. Returns early once the caller has lost interest. */
export async function verify(auditId: string, isWanted: () => boolean): Promise<void> {
  const { id } = startedAnswer.parse(await call(`/api/audits/${auditId}/jobs`, 'POST', { kind: 'verify' }));
  await jobEnded(id, isWanted, 'Verification');
}
