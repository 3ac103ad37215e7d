import type { Audit } from '../audits/audits';
import type { Store } from '../database/open';
import { valuedMail } from '../mail/stored-mail';
import { maybePlan } from './kept';
import { saidOf } from './said';

/** What must be changed, or answered, to resolve a finding. */
export type Cause =
  | { readonly by: 'step'; readonly key: string; readonly title: string }
  | { readonly by: 'question'; readonly key: string; readonly title: string };

/** The causes of findings on the draft, by the keys of the findings, as far as the plan knows them. */
export function causesOf(store: Store, audit: Audit): ReadonlyMap<string, Cause> {
  const found = maybePlan(store, audit, saidOf(store, audit.id));
  const causes = new Map<string, Cause>();
  if (!found?.plan.counted) return causes;
  const { tidy, steps, questions, counted } = found.plan;
  const titles = new Map([...(tidy?.steps ?? []), ...steps].map(({ key, title }) => [key, title]));
  const mail = questions.length > 0 ? valuedMail(store, audit) : null;
  for (const { message, findings } of questions) {
    const subject = mail?.message(message).subject ?? '';
    for (const key of findings) {
      if (!causes.has(key)) causes.set(key, { by: 'question', key: String(message), title: subject });
    }
  }
  for (const { key, step } of counted.ended) {
    const title = step === null ? undefined : titles.get(step);
    if (step !== null && title !== undefined) causes.set(key, { by: 'step', key: step, title });
  }
  return causes;
}
