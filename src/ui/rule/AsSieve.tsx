import { Textarea } from '@mantine/core';
import { useState } from 'react';
import { chainFromSieve } from '../../core/rules/from-sieve';
import { unmarked } from '../../core/rules/marks';
import type { Rule } from '../../core/rules/rule';
import { wordsOf } from '../../core/sieve/diagnostics';
import classes from './RuleDesk.module.css';

interface Props {
  readonly rule: Rule;
  /** As the server prints it. */
  readonly text: string;
  readonly onChange: (rule: Rule) => void;
}

/** The rule as Sieve; an edited text replaces the rule once it is valid. */
export function AsSieve({ rule, text, onChange }: Props) {
  const [written, setWritten] = useState<string | null>(null);
  const read = written === null ? null : readRule(rule, written);
  return (
    <Textarea
      size="xs"
      aria-label="The rule as Sieve"
      className={classes.script}
      classNames={{ input: 'mono' }}
      autosize
      minRows={4}
      maxRows={18}
      spellCheck={false}
      value={written ?? text}
      error={read && !read.ok ? read.words : null}
      onChange={(event) => {
        const words = event.currentTarget.value;
        setWritten(words);
        const now = readRule(rule, words);
        if (now.ok) onChange(now.rule);
      }}
      onBlur={() => read?.ok && setWritten(null)}
    />
  );
}

type Read = { readonly ok: true; readonly rule: Rule } | { readonly ok: false; readonly words: string };

/** The rule that a text expresses; its link to the rule before it is unchanged. */
function readRule(rule: Rule, text: string): Read {
  const { chain, diagnostics } = chainFromSieve(text);
  const [fault] = diagnostics.filter(({ code }) => code !== 'missing-require');
  if (fault) return { ok: false, words: wordsOf(fault) };
  const [only, another] = chain.entries;
  if (!only || another) return { ok: false, words: 'This is not one rule.' };
  if (only.kind === 'script') return { ok: false, words: `A rule cannot contain this: ${only.reason}.` };
  return { ok: true, rule: { ...only, ...unmarked(only.name), id: rule.id, link: rule.link } };
}
