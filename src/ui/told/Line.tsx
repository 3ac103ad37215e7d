import { Combobox, TextInput, useCombobox } from '@mantine/core';
import type { ClipboardEvent, KeyboardEvent } from 'react';
import { sentenceOf } from '../../core/rules/sentence';
import { type Completions, completionsOf } from '../../core/rules/told/completion';
import type { Part } from '../../core/rules/told/found-rule';
import type { ToldRule } from '../../core/rules/told/read';
import type { RuleOffers } from '../../server/chain/rule-view';
import type { TypedCounts } from '../../server/chain/typed-view';
import { CaughtWords } from '../typed/CaughtWords';
import classes from './Told.module.css';

interface Props {
  readonly auditId: string;
  /** Counted from 1. */
  readonly number: number;
  readonly text: string;
  /** Null for an empty line. */
  readonly reading: ToldRule | null;
  readonly counts: TypedCounts | null;
  readonly total: number;
  readonly isCurrent: boolean;
  readonly offers: RuleOffers;
  readonly onChange: (text: string) => void;
  /** Begins a line below. */
  readonly onNext: () => void;
  /** Replaces the line by several. */
  readonly onPaste: (lines: readonly string[]) => void;
  readonly onRemove: () => void;
  readonly onGo: (by: number) => void;
  readonly onMove: (by: number) => void;
}

/** One line: what is typed, and below it the rule that was read from it, with what it would catch. */
export function Line(props: Props) {
  const { auditId, number, text, reading, counts, total, isCurrent } = props;
  return (
    <div className={classes.line}>
      <span className={classes.number}>{number}</span>
      <LineField {...props} />
      {reading && (
        <div className={classes.read} aria-live="polite">
          <span>
            <strong>{reading.rule.name}</strong> · {sentenceOf(reading.rule)}
          </span>
          {reading.unread.length > 0 && <Unread text={text} parts={reading.unread} />}
          {reading.remarks.map(({ words, start }) => (
            <span key={`${start} ${words}`} className={classes.warning}>
              {words}
            </span>
          ))}
          {counts && (
            <span aria-busy={!isCurrent}>
              <CaughtWords auditId={auditId} rule={reading.rule} counts={counts} total={total} />
            </span>
          )}
        </div>
      )}
    </div>
  );
}

/** The line again, with the words that were not understood marked. */
function Unread({ text, parts }: { text: string; parts: readonly Part[] }) {
  return (
    <span className={classes.warning}>
      Not understood:{' '}
      {parts.map(({ start, end }, at) => (
        <span key={start}>
          {at > 0 && ', '}
          <mark className={classes.unread}>{text.slice(start, end)}</mark>
        </span>
      ))}
    </span>
  );
}

/** The field of a line; its last word is completed from the stored mail. */
function LineField({ number, text, offers, reading, onChange, onNext, onPaste, onRemove, onGo, onMove }: Props) {
  const combobox = useCombobox({ onDropdownClose: () => combobox.resetSelectedOption() });
  const { from, options }: Completions = completionsOf(text, offers);
  const take = (option: string) => {
    onChange(`${text.slice(0, from)}${option} `);
    combobox.closeDropdown();
  };
  const go = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.nativeEvent.isComposing) return;
    const isChosen = combobox.dropdownOpened && combobox.getSelectedOptionIndex() >= 0;
    const isOpen = combobox.dropdownOpened && options.length > 0;
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (event.key === 'Enter' && !isChosen) {
      event.preventDefault();
      combobox.closeDropdown();
      onNext();
    } else if (event.key === 'Backspace' && text === '') {
      event.preventDefault();
      onRemove();
    } else if (by !== undefined && (event.altKey || !isOpen)) {
      event.preventDefault();
      if (event.altKey) onMove(by);
      else onGo(by);
    }
  };
  const paste = (event: ClipboardEvent<HTMLInputElement>) => {
    const pasted = event.clipboardData.getData('text/plain').trimEnd();
    if (!/[\r\n]/.test(pasted)) return;
    event.preventDefault();
    const [first = '', ...others] = pasted.split(/\r\n|\r|\n/);
    onPaste([`${text}${first}`, ...others]);
  };
  return (
    <Combobox store={combobox} onOptionSubmit={take} position="bottom-start" width="max-content">
      <Combobox.Target>
        <TextInput
          size="sm"
          variant="unstyled"
          classNames={{ input: classes.field }}
          aria-label={`Rule ${number}`}
          placeholder={number === 1 ? 'mail from …, with … in the subject, into …' : undefined}
          aria-invalid={reading && reading.unread.length > 0 ? true : undefined}
          spellCheck={false}
          autoComplete="off"
          value={text}
          onChange={(event) => {
            onChange(event.currentTarget.value);
            combobox.openDropdown();
          }}
          onBlur={() => combobox.closeDropdown()}
          onKeyDown={go}
          onPaste={paste}
        />
      </Combobox.Target>
      {options.length > 0 && (
        <Combobox.Dropdown>
          <Combobox.Options>
            {options.map((option) => (
              <Combobox.Option key={option} value={option}>
                {option}
              </Combobox.Option>
            ))}
          </Combobox.Options>
        </Combobox.Dropdown>
      )}
    </Combobox>
  );
}
