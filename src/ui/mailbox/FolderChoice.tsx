'use client';

import { Button, Checkbox } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, useState } from 'react';
import { elementAt } from '../../core/text/lookup';
import type { MailboxContents, MailboxFolder } from '../../server/mailbox/ask';
import { DayInput } from '../common/DayInput';
import { formatBytes, formatNumber, messagesWord } from '../common/format';
import { TextButton } from '../common/TextButton';
import { WhyButton } from '../common/WhyButton';
import classes from './Mailbox.module.css';

interface Props {
  readonly contents: MailboxContents;
  /** The folders that were chosen before; null if none were. */
  readonly before: readonly string[] | null;
  readonly hasRules: boolean;
  readonly since: number | null;
  readonly busy: boolean;
  /** Counts again from a day on. */
  readonly onCount: (since: number | null) => void;
  readonly onFetch: (folders: readonly string[], scripts: readonly string[]) => void;
}

const USE_WORDS: Readonly<Record<NonNullable<MailboxFolder['use']>, string>> = {
  sent: 'sent mail',
  archive: 'archive',
  trash: 'deleted mail',
  junk: 'junk mail',
  drafts: 'drafts',
};
/** Mail there says little of where the user wants mail to be. */
const LEFT_OUT: ReadonlySet<string | null> = new Set(['trash', 'junk', 'drafts']);
const isUsual = ({ use, isView }: MailboxFolder): boolean => !isView && !LEFT_OUT.has(use);

/** The folders of a mailbox, with what they hold; which are fetched, from which day on, and with which scripts. */
export function FolderChoice({ contents, before, hasRules, since, busy, onCount, onFetch }: Props) {
  const { folders, scripts, scriptTrouble } = contents;
  const [chosen, choose] = useState<ReadonlySet<string>>(
    () => new Set(before ?? folders.filter(isUsual).map(({ path }) => path)),
  );
  const [wanted, want] = useState<readonly string[]>(() =>
    hasRules ? [] : (scripts ?? []).flatMap(({ name, active }) => (active ? [name] : [])),
  );
  const fetched = folders.filter(({ path }) => chosen.has(path));
  const messages = fetched.reduce((sum, folder) => sum + folder.messages, 0);
  const octets = fetched.reduce<number | null>(
    (sum, folder) => (sum === null || folder.octets === null ? null : sum + folder.octets),
    0,
  );
  const mark = (path: string, isChosen: boolean) => {
    const next = new Set(chosen);
    if (isChosen) next.add(path);
    else next.delete(path);
    choose(next);
  };
  return (
    <>
      <p className={classes.lead}>
        {messagesWord(messages)} in {formatNumber(fetched.length)} of {formatNumber(folders.length)} folders
        {octets === null ? '' : `, ${formatBytes(octets)}`}
      </p>
      <div className={classes.start}>
        <WhyButton
          loading={busy}
          why={fetched.length === 0 ? 'Choose a folder below.' : null}
          onClick={() => onFetch([...chosen], wanted)}
        >
          Fetch {messagesWord(messages)}
        </WhyButton>
        <Since since={since} busy={busy} onCount={onCount} />
      </div>
      <p className={classes.soft}>
        Messages that were fetched before are not fetched again. Drafts, junk and deleted mail are left out unless you
        choose them.{' '}
        <TextButton onClick={() => choose(new Set(folders.filter(({ isView }) => !isView).map(({ path }) => path)))}>
          choose all
        </TextButton>{' '}
        <TextButton onClick={() => choose(new Set())}>choose none</TextButton>
      </p>
      <Folders folders={folders} chosen={chosen} mark={mark} />
      <ScriptChoice scripts={scripts} trouble={scriptTrouble} hasRules={hasRules} wanted={wanted} want={want} />
    </>
  );
}

/** Mail from which day on. */
function Since({ since, busy, onCount }: Pick<Props, 'since' | 'busy' | 'onCount'>) {
  const [day, setDay] = useState(since === null ? '' : new Date(since).toISOString().slice(0, 10));
  const time = day === '' ? null : Date.parse(`${day}T00:00:00Z`);
  return (
    <>
      <label htmlFor="since" className={classes.soft}>
        Only mail that arrived since
      </label>
      <DayInput id="since" clearable value={day} onDay={setDay} />
      {time !== since && !Number.isNaN(time) && (
        <Button size="compact-sm" variant="default" loading={busy} onClick={() => onCount(time)}>
          {time === null ? 'Count all mail' : 'Count mail since that day'}
        </Button>
      )}
    </>
  );
}

const LINE = 30;

interface FoldersProps {
  readonly folders: readonly MailboxFolder[];
  readonly chosen: ReadonlySet<string>;
  readonly mark: (path: string, isChosen: boolean) => void;
}

/** A virtual list, since a server may have thousands. */
function Folders({ folders, chosen, mark }: FoldersProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: folders.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE,
    overscan: 10,
  });
  return (
    <div ref={scroller} className={classes.folders} role="list" aria-label="Folders on the server">
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const { path, use, isView, messages, octets } = elementAt(folders, index);
          return (
            <div key={path} role="listitem" className={classes.folder} style={{ top: start }}>
              <Checkbox
                size="xs"
                label={<bdi>{path.replace(/\p{Cc}/gu, '\ufffd')}</bdi>}
                checked={chosen.has(path)}
                onChange={(event) => mark(path, event.currentTarget.checked)}
              />
              <span className={classes.soft}>{isView ? 'shows messages of other folders' : use && USE_WORDS[use]}</span>
              <span className={classes.number}>{formatNumber(messages)}</span>
              <span className={classes.number}>{octets === null ? '' : formatBytes(octets)}</span>
            </div>
          );
        })}
      </div>
    </div>
  );
}

interface ScriptChoiceProps extends Pick<MailboxContents, 'scripts'> {
  readonly trouble: string;
  readonly hasRules: boolean;
  readonly wanted: readonly string[];
  readonly want: (names: readonly string[]) => void;
}

function ScriptChoice({ scripts, trouble, hasRules, wanted, want }: ScriptChoiceProps) {
  if (scripts === null) return null;
  if (trouble) {
    return (
      <>
        <h2 className={classes.heading}>Scripts</h2>
        <p className={classes.soft}>The scripts cannot be read; mail can be fetched without them. {trouble}</p>
      </>
    );
  }
  return (
    <>
      <h2 className={classes.heading}>Scripts to import as rules</h2>
      {scripts.length === 0 && <p className={classes.soft}>The server has no scripts.</p>}
      {hasRules && scripts.length > 0 && (
        <p className={classes.soft}>This audit has rules already. Those of a script run after them.</p>
      )}
      {scripts.map(({ name, active }) => (
        <Checkbox
          key={name}
          size="xs"
          className={classes.script}
          label={active ? `${name} (in use)` : name}
          checked={wanted.includes(name)}
          onChange={(event) =>
            want(event.currentTarget.checked ? [...wanted, name] : wanted.filter((other) => other !== name))
          }
        />
      ))}
    </>
  );
}
