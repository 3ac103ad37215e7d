'use client';

import { useRouter } from 'next/navigation';
import { type ReactNode, useMemo, useState } from 'react';
import { type Edit, rewriting } from '../../core/rules/edit';
import type { ChainEntry, Rule } from '../../core/rules/rule';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber } from '../common/format';
import { WhyButton } from '../common/WhyButton';
import classes from './Typed.module.css';

interface Props {
  readonly auditId: string;
  /** The number of entries of the draft, behind which the rules are added. */
  readonly entries: number;
  /** All entries of the draft, if the rules replace them. */
  readonly replaced?: readonly ChainEntry[];
  /** Whether they are added before all others instead. */
  readonly isFirst?: boolean;
  readonly rules: readonly Rule[];
  /** Why they cannot be added yet; null if they can. */
  readonly obstacle: string | null;
  readonly why: string;
  /** Called after they were added. */
  readonly onAdded: () => void;
  readonly children?: ReactNode;
}

/** Previews typed rules, and adds them to the draft. */
export function AddRules(props: Props) {
  const { auditId, entries, replaced = [], isFirst = false, rules, obstacle, why, onAdded, children } = props;
  const [shown, setShown] = useState<{ readonly of: string; readonly edits: readonly Edit[] } | null>(null);
  const isNew = replaced.length > 0;
  // The page is rendered anew after each job, with equal rules that are other objects.
  const wanted = useMemo(() => JSON.stringify([rules, isNew]), [rules, isNew]);
  const router = useRouter();
  const look = () => {
    const added = rules.map((rule) => ({ ...rule, id: crypto.randomUUID() }));
    setShown({ of: wanted, edits: [rewriting(isNew || isFirst ? 0 : entries, replaced, added)] });
  };
  return (
    <>
      <div className={classes.buttons}>
        <WhyButton
          size="compact-sm"
          why={obstacle ?? (rules.length === 0 ? 'Write a rule first.' : null)}
          onClick={look}
        >
          {rules.length < 2 ? 'Preview the rule' : `Preview ${formatNumber(rules.length)} rules`}
        </WhyButton>
        <span className={classes.soft}>
          {obstacle ??
            (entries === 0
              ? 'They become the first rules of the draft.'
              : isNew
                ? `They replace the ${formatNumber(entries)} rules of the draft.`
                : `They are added ${isFirst ? 'before' : 'after'} the ${formatNumber(entries)} rules of the draft.`)}
        </span>
        {children}
      </div>
      {shown?.of === wanted && (
        <ChangePreview
          auditId={auditId}
          edits={shown.edits}
          why={why}
          onDone={() => setShown(null)}
          onMade={() => {
            onAdded();
            router.push(`/audits/${auditId}/chain`);
          }}
        />
      )}
    </>
  );
}
