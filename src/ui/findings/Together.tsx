'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useSyncExternalStore } from 'react';
import type { Edit } from '../../core/rules/edit';
import { ownJson } from '../../core/text/lookup';
import { togetherAnswer } from '../../server/http/answers';
import { useAsked } from '../common/answers';
import { call } from '../common/api';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber } from '../common/format';
import { Quoted } from '../common/Quoted';
import { TextButton } from '../common/TextButton';
import { Tabs } from './Filters';
import classes from './Findings.module.css';

/** The batch: repairs of several findings as one change, with their conflicts. */
export function Together({ auditId }: { auditId: string }) {
  const [basket, setBasket] = useBasket(auditId);
  const router = useRouter();
  const proposed = basket.map(({ title, edits }) => ({ title, edits }));
  const { answer: found, failure } = useAsked(
    basket.length === 0 ? null : ['together', auditId, proposed],
    async (signal) => togetherAnswer.parse(await call(`/api/audits/${auditId}/together`, 'POST', { proposed }, signal)),
  );
  const left = new Set(found?.conflicts.map(({ index }) => index));
  const why = basket.filter((_, index) => !left.has(index)).map(({ claim }) => claim);
  return (
    <div className={classes.together}>
      <Tabs auditId={auditId} current="findings/together" />
      <h1 className={classes.detailClaim}>
        {basket.length === 0 ? 'The batch is empty' : `Batch of ${formatNumber(basket.length)} repairs`}
      </h1>
      {basket.length === 0 && (
        <p>
          On a <Link href={`/audits/${auditId}/findings`}>finding</Link>, choose “add to batch” beside a repair. The
          batch is kept here until you apply it.
        </p>
      )}
      <ol className={classes.gathered}>
        {basket.map((one, index) => {
          const conflict = found?.conflicts.find((candidate) => candidate.index === index);
          const against = conflict?.against == null ? null : basket[conflict.against];
          return (
            <li key={one.finding} data-left={conflict ? true : undefined}>
              <strong>
                <Quoted>{one.title}</Quoted>
              </strong>
              <span>
                for:{' '}
                <Link href={`/audits/${auditId}/findings?finding=${encodeURIComponent(one.finding)}`}>
                  <Quoted>{one.claim}</Quoted>
                </Link>
              </span>
              {conflict && (
                <span className={classes.conflict}>
                  Left out: {conflict.words}
                  {against ? `, by “${against.title}”.` : ', since the batch was made.'}
                </span>
              )}
              <TextButton onClick={() => setBasket(basket.filter((other) => other !== one))}>remove</TextButton>
            </li>
          );
        })}
      </ol>
      {failure && <p className={classes.conflict}>{failure}</p>}
      {found && found.edits.length > 0 && (
        <ChangePreview
          auditId={auditId}
          edits={found.edits}
          why={why.join(' ').slice(0, 2000)}
          onDone={() => router.push(`/audits/${auditId}/findings`)}
          onMade={() => {
            setBasket(basket.filter((_, index) => left.has(index)));
            router.refresh();
          }}
        />
      )}
    </div>
  );
}

/** A repair in the batch. */
export interface Gathered {
  /** The key and claim of the finding it repairs. */
  readonly finding: string;
  readonly claim: string;
  readonly title: string;
  readonly edits: readonly Edit[];
}

const NONE: readonly Gathered[] = [];
const listeners = new Set<() => void>();
const known = new Map<string, { readonly text: string; readonly list: readonly Gathered[] }>();
const keyOf = (auditId: string): string => `together ${auditId}`;

/** The batch of this window, which survives a reload, and its setter. */
export function useBasket(auditId: string): [readonly Gathered[], (list: readonly Gathered[]) => void] {
  const list = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => read(auditId),
    () => NONE,
  );
  return [list, (next) => write(auditId, next)];
}

function read(auditId: string): readonly Gathered[] {
  const text = sessionStorage.getItem(keyOf(auditId)) ?? '[]';
  const held = known.get(auditId);
  if (held?.text === text) return held.list;
  const list = ownJson<readonly Gathered[]>(text);
  known.set(auditId, { text, list });
  return list;
}

function write(auditId: string, list: readonly Gathered[]): void {
  sessionStorage.setItem(keyOf(auditId), JSON.stringify(list));
  for (const listener of listeners) listener();
}
