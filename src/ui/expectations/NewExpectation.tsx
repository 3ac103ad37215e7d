import { Autocomplete, TextInput } from '@mantine/core';
import { useMemo } from 'react';
import { type Expectation, expectationFault, expectationWords, type Must } from '../../core/repair/expectations';
import { closed, opened } from '../../core/repair/tree-edits';
import { blankRule, type Rule } from '../../core/rules/rule';
import { ownJson } from '../../core/text/lookup';
import type { RuleOffers } from '../../server/chain/rule-view';
import { useKeptText } from '../common/useKeptText';
import { WhyButton } from '../common/WhyButton';
import { Choice } from '../rule/fields';
import { TreeEditor } from '../rule/TreeEditor';
import classes from './Expectations.module.css';

interface Props {
  readonly auditId: string;
  readonly offers: RuleOffers;
  readonly onKeep: (expectation: Expectation) => Promise<boolean>;
}

/** An expectation in the form: all destinations of a message are only kept from answers of the plan. */
interface Written extends Expectation {
  readonly must: Exclude<Must, { must: 'end only in' }>;
}

const MUSTS: readonly { readonly value: Written['must']['must']; readonly label: string }[] = [
  { value: 'reach the inbox', label: 'reach the inbox' },
  { value: 'not be dropped', label: 'not be discarded' },
  { value: 'be kept', label: 'be kept somewhere' },
  { value: 'end in', label: 'end in a folder' },
  { value: 'not be sent outside', label: 'not be redirected to other domains' },
];

const NO_TEST = 'Add a test: which mail the expectation is about.';

const BLANK: Written = { name: '', tests: { kind: 'all', children: [] }, must: { must: 'reach the inbox' } };

/** A form for an expectation: which mail, and what must happen to it. Unfinished input survives a reload. */
export function NewExpectation({ auditId, offers, onKeep }: Props) {
  const beginning = useMemo(() => JSON.stringify(BLANK), []);
  const [text, keepText] = useKeptText(`expectation ${auditId}`, beginning);
  const written = ownJson<Written>(text);
  const put = (change: Partial<Written>) => keepText(JSON.stringify({ ...written, ...change }));
  const rule: Rule = opened({ ...EMPTY, tests: written.tests });
  const expectation: Expectation = { ...written, tests: closed({ ...EMPTY, tests: written.tests }).tests };
  const fault = expectationFault(expectation);
  const keep = async () => {
    if (fault !== null || !(await onKeep(expectation))) return;
    keepText(beginning);
  };
  return (
    <section className={classes.form} aria-label="A new expectation">
      <h2 className={classes.heading}>A new expectation</h2>
      <TextInput
        size="xs"
        label="Name"
        maxLength={200}
        value={written.name}
        onChange={(event) => put({ name: event.currentTarget.value })}
      />
      <TreeEditor rule={rule} faults={[]} offers={offers} onChange={({ tests }) => put({ tests })} testsOnly />
      <div className={classes.must}>
        <span>this mail must</span>
        <Choice
          label="What must happen to this mail"
          wide
          value={written.must.must}
          choices={MUSTS}
          onChange={(must) => put({ must: must === 'end in' ? { must, folder: '' } : { must } })}
        />
        {written.must.must === 'end in' && (
          <Autocomplete
            size="xs"
            aria-label="Folder"
            placeholder="a folder"
            data={[...offers.folders]}
            limit={12}
            value={written.must.folder}
            onChange={(folder) => put({ must: { must: 'end in', folder } })}
          />
        )}
      </div>
      <p className={classes.soft}>{expectationWords(expectation)}.</p>
      <div>
        <WhyButton
          size="compact-sm"
          onClick={keep}
          why={fault ?? (expectation.tests.kind !== 'leaf' && expectation.tests.children.length === 0 ? NO_TEST : null)}
        >
          Add expectation
        </WhyButton>
      </div>
    </section>
  );
}

const EMPTY = blankRule('expectation');
