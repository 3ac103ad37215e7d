import { Autocomplete, Button, TextInput } from '@mantine/core';
import { useRef, useState } from 'react';
import { named, ruleOfRow, type SheetRow } from '../../core/rules/sheet';
import type { RuleOffers } from '../../server/chain/rule-view';
import classes from './Sheet.module.css';

const BLANK = { sender: '', subject: '', folder: '' };

/** One rule per line by keyboard alone: sender, words, folder; Enter adds the rule and begins the next line. */
export function QuickEntry({ offers, onAdd }: { offers: RuleOffers; onAdd: (row: SheetRow) => void }) {
  const [line, setLine] = useState(BLANK);
  const [fault, setFault] = useState<string | null>(null);
  const first = useRef<HTMLInputElement>(null);
  const put = (change: Partial<typeof BLANK>) => {
    setFault(null);
    setLine({ ...line, ...change });
  };
  const add = () => {
    if (line.sender.trim() === '' && line.subject.trim() === '') {
      setFault('Enter a sender, or words in the subject.');
      return;
    }
    const row = named(line);
    const reading = ruleOfRow(row, 'x');
    if (!reading.ok) {
      setFault(reading.faults.map(({ words }) => words).join(' '));
      return;
    }
    onAdd(row);
    setLine(BLANK);
    first.current?.focus();
  };
  const senders = offers.senders.map((one) => (one.includes('@') ? one : `@${one}`));
  return (
    <form
      className={classes.quick}
      aria-label="Quick entry"
      onSubmit={(event) => {
        event.preventDefault();
        add();
      }}
    >
      <span>mail from</span>
      <Autocomplete
        ref={first}
        size="xs"
        aria-label="Sender"
        placeholder="address or @domain"
        data={senders}
        limit={10}
        value={line.sender}
        onChange={(sender) => put({ sender })}
      />
      <span>with</span>
      <TextInput
        size="xs"
        aria-label="Words in the subject"
        placeholder="words in the subject"
        value={line.subject}
        onChange={(event) => put({ subject: event.currentTarget.value })}
      />
      <span>is filed into</span>
      <Autocomplete
        size="xs"
        aria-label="Folder"
        placeholder="a folder"
        data={[...offers.folders]}
        limit={10}
        value={line.folder}
        onChange={(folder) => put({ folder })}
      />
      <Button size="compact-sm" type="submit" variant="default">
        Add to the sheet
      </Button>
      {fault && (
        <span role="alert" className={classes.fault}>
          {fault}
        </span>
      )}
    </form>
  );
}
