import { Autocomplete, Checkbox, Menu, Select, TagsInput, Textarea } from '@mantine/core';
import { IconPlus } from '@tabler/icons-react';
import { useRef, useState } from 'react';
import type { Reading } from '../../core/rules/as-written';
import classes from './RuleDesk.module.css';

/** The small fields of rule forms. */

interface ChoiceProps<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly choices: readonly { readonly value: T; readonly label: string }[];
  readonly wide?: boolean;
  readonly onChange: (value: T) => void;
}

/** A choice that is always set. */
export function Choice<T extends string>({ label, value, choices, wide = false, onChange }: ChoiceProps<T>) {
  return (
    <Select<T>
      size="xs"
      aria-label={label}
      className={wide ? classes.what : classes.short}
      allowDeselect={false}
      value={value}
      data={[...choices]}
      onChange={(chosen) => chosen !== null && onChange(chosen)}
    />
  );
}

interface NamesProps {
  readonly label: string;
  readonly names: readonly string[];
  readonly offers: readonly string[];
  readonly placeholder?: string;
  readonly onChange: (names: string[]) => void;
}

/** Names without spaces, such as those of header fields and flags. */
export function Names({ label, names, offers, placeholder = '', onChange }: NamesProps) {
  return (
    <TagsInput
      size="xs"
      aria-label={label}
      className={classes.headers}
      placeholder={names.length === 0 ? placeholder : ''}
      value={[...names]}
      data={[...offers]}
      splitChars={[',', ' ', '\n']}
      acceptValueOnBlur
      onChange={onChange}
    />
  );
}

/** System flags (RFC 9051 section 2.3.2). */
export const FLAGS = ['\\seen', '\\flagged', '\\answered', '\\deleted', '\\draft'];

/** Uses of folders (RFC 6154 section 2). */
export const USES = ['\\Archive', '\\Drafts', '\\Flagged', '\\Junk', '\\Sent', '\\Trash'];

interface AsWrittenProps<T> {
  readonly label: string;
  readonly text: string;
  readonly read: (text: string) => Reading<T>;
  readonly onRead: (said: T) => void;
}

/** Sieve text, applied once it is valid; give it another key for another text. */
export function AsWritten<T>({ label, text, read, onRead }: AsWrittenProps<T>) {
  const [written, setWritten] = useState(text);
  const reading = read(written);
  return (
    <Textarea
      size="xs"
      aria-label={label}
      className={classes.sieve}
      classNames={{ input: 'mono' }}
      autosize
      minRows={1}
      spellCheck={false}
      value={written}
      error={reading.ok ? null : reading.words}
      onChange={(event) => setWritten(event.currentTarget.value)}
      onBlur={() => reading.ok && onRead(reading.said)}
    />
  );
}

interface AddMenuProps {
  readonly words: string;
  readonly items: readonly { readonly title: string; readonly hint?: string; readonly add: () => void }[];
}

/** A menu of things to add. The focus returns at once: later, it would be taken from the field that was added. */
export function AddMenu({ words, items }: AddMenuProps) {
  const button = useRef<HTMLButtonElement>(null);
  return (
    <Menu position="bottom-start" menuItemTabIndex={0} returnFocus={false} onClose={() => button.current?.focus()}>
      <Menu.Target>
        <button ref={button} type="button" className={classes.addButton}>
          <IconPlus size={14} aria-hidden="true" /> {words}
        </button>
      </Menu.Target>
      <Menu.Dropdown className={classes.menu}>
        {items.map(({ title, hint, add }) => (
          <Menu.Item key={title} onClick={add}>
            {title} {hint && <span className={classes.hint}>{hint}</span>}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

/** The flags it is filed with; if unset, those set by earlier rules. */
export function Marked({
  flags,
  onChange,
}: {
  flags: readonly string[] | null;
  onChange: (flags: string[] | null) => void;
}) {
  return (
    <>
      <Tick label="set flags" checked={flags !== null} onChange={(own) => onChange(own ? ['\\seen'] : null)} />
      {flags !== null && <Names label="Flags and keywords" names={flags} offers={FLAGS} onChange={onChange} />}
    </>
  );
}

interface TickProps {
  readonly label: string;
  readonly checked: boolean | undefined;
  readonly onChange: (checked: true | undefined) => void;
}

/** An optional yes. */
export function Tick({ label, checked = false, onChange }: TickProps) {
  return (
    <Checkbox
      size="xs"
      mr="xs"
      label={label}
      checked={checked}
      onChange={(event) => onChange(event.currentTarget.checked || undefined)}
    />
  );
}

interface FolderFieldProps {
  readonly label: string;
  readonly placeholder: string;
  readonly folder: string;
  readonly offers: readonly string[];
  readonly onChange: (folder: string) => void;
}

/** A folder name, with suggestions. */
export function FolderField({ label, placeholder, folder, offers, onChange }: FolderFieldProps) {
  return (
    <Autocomplete
      size="xs"
      aria-label={label}
      placeholder={placeholder}
      className={classes.headers}
      value={folder}
      data={[...offers]}
      limit={12}
      onChange={onChange}
    />
  );
}
