'use client';

import { useDebouncedValue } from '@mantine/hooks';
import type { Rule } from '../../core/rules/rule';
import type { TypedCounts } from '../../server/chain/typed-view';
import { typedAnswer } from '../../server/http/answers';
import { useAsked, workedOut } from '../common/answers';
import { call } from '../common/api';

/** Milliseconds without typing before the server is asked. */
const PAUSE = 60;
/** More rules are not counted while they are typed. */
const MOST = 500;

export interface Counted {
  readonly total: number;
  /** In the order of the rules; undefined while nothing is known. */
  readonly rows: readonly (TypedCounts | null)[] | undefined;
  readonly isCurrent: boolean;
  readonly isTooMany: boolean;
}

/** What rules that are being typed would catch: asked anew after every change, the last answer shown meanwhile. */
export function useTypedCounts(auditId: string, rules: readonly Rule[]): Counted {
  const isTooMany = rules.length > MOST;
  const wanted = JSON.stringify(isTooMany ? [] : rules);
  const [asked] = useDebouncedValue(wanted, PAUSE);
  const { answer, isCurrent } = useAsked(
    asked === '[]' ? null : ['typed', auditId, asked],
    (signal) =>
      workedOut({
        ask: async () =>
          typedAnswer.parse(await call(`/api/audits/${auditId}/typed`, 'POST', { rules: JSON.parse(asked) }, signal)),
        jobOf: ({ weighing }) => weighing,
        what: 'The counts',
        signal,
        cancels: true,
      }),
    { keeps: true },
  );
  return {
    total: answer?.total ?? 0,
    rows: answer?.rows ?? undefined,
    isCurrent: isCurrent && asked === wanted,
    isTooMany,
  };
}
