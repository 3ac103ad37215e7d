import { type FormId, formOf, TEST_FORMS } from '../../../core/repair/test-forms';
import { bodyTest, maybeBodyMatch } from '../../../core/rules/known-comparisons';
import type { LeafTest, TestTree, TextMatch } from '../../../core/rules/rule';
import type { RuleOffers } from '../../../server/chain/rule-view';
import { Choice, FLAGS } from '../fields';
import { Keys } from '../Keys';
import classes from '../RuleDesk.module.css';
import { Compared } from './Compared';
import { Headers, KeysOrList, Match, PARTS, Size } from './Fields';
import { Query } from './Query';

interface Props {
  readonly test: LeafTest;
  readonly offers: RuleOffers;
  readonly onChange: (tree: TestTree) => void;
}

/** One test: what is tested, how, and with which keys. */
export function LeafEditor({ test, offers, onChange }: Props) {
  const form = formOf(test);
  const put = (made: LeafTest) => onChange({ kind: 'leaf', test: made });
  const choices = TEST_FORMS.map(({ id, title }) => ({ value: id, label: title }));
  const known = choices.some(({ value }) => value === form);
  return (
    <div className={classes.leaf}>
      <Choice
        label="What is tested"
        wide
        value={form}
        choices={known ? choices : [...choices, { value: form, label: OTHERS[form] ?? form }]}
        onChange={(value) => value !== form && put(begun(value, test, offers))}
      />
      <Details test={test} form={form} offers={offers} put={put} onChange={onChange} />
    </div>
  );
}

/** Forms that only imported scripts start with. */
const OTHERS: Partial<Record<FormId, string>> = { addresses: 'addresses in', envelope: 'the envelope' };

/** Turns a test into another form, keeping its keys if both have some. */
function begun(id: FormId, before: LeafTest, offers: RuleOffers): LeafTest {
  const made = TEST_FORMS.find((form) => form.id === id)?.begin(offers);
  if (!made) return before;
  const sought = matchOf(before);
  if (!sought || sought.keys.length === 0) return made;
  if (id === 'body') return bodyTest(sought);
  return 'keys' in made && made.keys.length === 0 ? { ...made, match: sought.match, keys: sought.keys } : made;
}

function matchOf(test: LeafTest): TextMatch | null {
  return 'keys' in test ? test : maybeBodyMatch(test);
}

type DetailProps = Props & { readonly form: FormId; readonly put: (test: LeafTest) => void };

function Details({ test, form, offers, put, onChange }: DetailProps) {
  switch (test.test) {
    case 'address':
    case 'envelope':
      return (
        <>
          {form === 'addresses' && test.test === 'address' && (
            <Headers headers={test.headers} onChange={(headers) => put({ ...test, headers })} />
          )}
          <Choice
            label="Part of the address"
            value={test.part}
            choices={PARTS}
            onChange={(value) => put({ ...test, part: value })}
          />
          <Match match={test} onChange={(match) => put({ ...test, ...match })} />
          <KeysOrList
            label="addresses"
            test={test}
            offers={form === 'sender' ? offers.senders : offers.own}
            named={offers.named}
            put={put}
          />
        </>
      );
    case 'header':
      return (
        <>
          {(form === 'header' || form === 'importance') && (
            <Headers headers={test.headers} onChange={(headers) => put({ ...test, headers })} />
          )}
          <Match match={test} onChange={(match) => put({ ...test, ...match })} />
          <KeysOrList
            label="words"
            test={test}
            offers={form === 'list' ? offers.lists : []}
            named={offers.named}
            put={put}
          />
        </>
      );
    case 'hasflag':
      return (
        <>
          <Match match={test} onChange={(match) => put({ ...test, ...match })} />
          <Keys label="flags" keys={test.keys} offers={FLAGS} onChange={(keys) => put({ ...test, keys })} />
        </>
      );
    case 'exists':
      return <Headers headers={test.headers} onChange={(headers) => put({ ...test, headers })} />;
    case 'size':
      return <Size test={test} put={put} />;
    case 'compared':
      return <Compared test={test} form={form} put={put} onChange={onChange} />;
    case 'in-context':
      return <Details test={test.meant} form={form} offers={offers} put={put} onChange={onChange} />;
    default:
      return <Query test={test} put={put} onChange={onChange} />;
  }
}
