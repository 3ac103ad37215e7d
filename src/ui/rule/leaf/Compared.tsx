import { useState } from 'react';
import { begunQuestion, QUERY_FORMS, type QuestionKind, SUBJECT_FORMS } from '../../../core/repair/question-forms';
import { dateTest, type FormId, maybeDate } from '../../../core/repair/test-forms';
import { readWrittenTest } from '../../../core/rules/as-written';
import type { ComparedTest, FurtherTest } from '../../../core/rules/comparison';
import { bodyTest, maybeBodyMatch } from '../../../core/rules/known-comparisons';
import { wordsOfTest } from '../../../core/rules/nodes';
import type { LeafTest, TestTree } from '../../../core/rules/rule';
import { keysOf } from '../../../core/text/lookup';
import { DayInput } from '../../common/DayInput';
import { TextButton } from '../../common/TextButton';
import { AsWritten, Choice } from '../fields';
import { Keys } from '../Keys';
import classes from '../RuleDesk.module.css';
import { ComparisonFields } from './ComparisonFields';
import { MATCHES } from './Fields';
import { SubjectFields } from './SubjectFields';

interface Props {
  readonly test: ComparedTest;
  readonly form: FormId;
  readonly put: (test: LeafTest) => void;
  readonly onChange: (tree: TestTree) => void;
}

/** A further comparison: common ones in fields of their own, any other by subject and match type. */
export function Compared({ test, form, put, onChange }: Props) {
  const body = form === 'body' ? maybeBodyMatch(test) : null;
  if (body) {
    return (
      <>
        <Choice
          label="How it is compared"
          value={body.match}
          choices={MATCHES}
          onChange={(value) => put(bodyTest({ ...body, match: value }))}
        />
        <Keys label="words" keys={body.keys} onChange={(keys) => put(bodyTest({ ...body, keys }))} />
      </>
    );
  }
  if (form === 'date') return <Day test={test} put={put} />;
  if (form === 'attachment') return <span className={classes.fixed}>is present</span>;
  if (form === 'spam') return <span className={classes.fixed}>is at least 5 of 10</span>;
  return (
    <>
      <Question test={test} put={put} />
      <SubjectFields subject={test.subject} put={(subject) => put({ ...test, subject })} />
      <ComparisonFields subject={test.subject} by={test.by} put={(by) => put({ ...test, by })} />
      <WrittenTest test={test} onChange={onChange} />
    </>
  );
}

/** Before a day, or from a day on. */
function Day({ test, put }: Pick<Props, 'test' | 'put'>) {
  const date = maybeDate(test);
  if (!date) return null;
  return (
    <>
      <Choice
        label="Before or from"
        value={date.relation}
        choices={[
          { value: 'lt', label: 'is before' },
          { value: 'ge', label: 'is from' },
        ]}
        onChange={(value) => put(dateTest({ ...date, relation: value }))}
      />
      <DayInput aria-label="Day" value={date.day} onDay={(day) => day !== '' && put(dateTest({ ...date, day }))} />
    </>
  );
}

const QUESTIONS = { ...SUBJECT_FORMS, ...QUERY_FORMS };

interface QuestionProps {
  readonly test: FurtherTest;
  readonly put: (test: LeafTest) => void;
}

/** The kind of a further test. */
export function Question({ test, put }: QuestionProps) {
  const kind = test.test === 'compared' ? test.subject.of : test.test;
  return (
    <Choice<QuestionKind>
      label="Which test"
      wide
      value={kind}
      choices={keysOf(QUESTIONS).map((value) => ({ value, label: QUESTIONS[value].title }))}
      onChange={(chosen) => chosen !== kind && put(begunQuestion(chosen, test))}
    />
  );
}

interface WrittenTestProps {
  readonly test: LeafTest;
  readonly onChange: (tree: TestTree) => void;
}

/** The test as Sieve. */
export function WrittenTest({ test, onChange }: WrittenTestProps) {
  const [open, setOpen] = useState(false);
  const text = wordsOfTest(test);
  if (!open) return <TextButton onClick={() => setOpen(true)}>write it as Sieve</TextButton>;
  return <AsWritten key={text} label="The test as Sieve" text={text} read={readWrittenTest} onRead={onChange} />;
}
