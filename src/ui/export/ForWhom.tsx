import { NumberInput, Radio, SegmentedControl, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { ExportView } from '../../server/handover/export-view';
import { WhyButton } from '../common/WhyButton';
import classes from './Export.module.css';
import type { HandoverChange } from './handoverChange';

interface Props {
  readonly settings: ExportView['settings'];
  readonly targets: ExportView['targets'];
  readonly server: ExportView['server'];
  readonly lists: ExportView['lists'];
  readonly onSet: (change: HandoverChange) => void;
}

const LIMITS = [
  ['strings', 'strings in a list'],
  ['octets', 'bytes of script'],
  ['redirects', 'redirects per message'],
  ['nesting', 'levels of nested tests'],
] as const;

/** The target's capabilities, and the decisions where it lacks some. */
export function ForWhom({ settings, targets, server, lists, onSet }: Props) {
  const { choices, limits, capabilities } = settings;
  const isOfServer = server && (capabilities.length === 0 || capabilities.join() === server.capabilities.join());
  const [said, setSaid] = useState(capabilities.join(' '));
  return (
    <section aria-label="Target of the script">
      <h2 className={classes.heading}>Target server</h2>
      <Radio.Group
        aria-label="What the server supports"
        value={settings.target}
        onChange={(target) => onSet({ target })}
      >
        {targets.map(({ id, title, about }) => (
          <Radio key={id} size="xs" className={classes.choice} value={id} label={title} description={about} />
        ))}
        <Radio
          size="xs"
          className={classes.choice}
          value="own"
          label={isOfServer ? `what ${server.host} announced` : 'capabilities the server announces'}
          description={
            (capabilities.length > 0 ? capabilities : (server?.capabilities ?? [])).join(', ') ||
            'paste its capability line below, or connect to it'
          }
        />
      </Radio.Group>
      {settings.target === 'own' && (
        <div className={classes.said}>
          <Textarea
            size="xs"
            aria-label="Capability line"
            placeholder={'"SIEVE" "fileinto vacation imap4flags"'}
            autosize
            maxRows={4}
            classNames={{ input: 'mono' }}
            value={said}
            onChange={(event) => setSaid(event.currentTarget.value)}
          />
          <WhyButton
            size="compact-sm"
            variant="default"
            why={said.trim() === '' ? 'Enter what the server says it supports.' : null}
            onClick={() => onSet({ said })}
          >
            Use it
          </WhyButton>
        </div>
      )}
      <details className={classes.more}>
        <summary>
          {lists.length > 0 ? 'Limits, lists, rules' : 'Limits, rules'} that are off, and mail that cannot be rejected
        </summary>
        <div className={classes.limits}>
          {LIMITS.map(([name, words]) => (
            <NumberInput
              key={name}
              size="xs"
              label={`at most this many ${words}`}
              placeholder="no known limit"
              min={1}
              defaultValue={limits[name] ?? ''}
              onBlur={(event) => {
                const value = Number(event.currentTarget.value.replaceAll(',', ''));
                onSet({ limits: { ...limits, [name]: Number.isInteger(value) && value > 0 ? value : null } });
              }}
            />
          ))}
        </div>
        {lists.map(({ id, name }) => (
          <TextInput
            key={id}
            size="xs"
            label={`Name of the list “${name}” on the server`}
            description="if the server keeps this list too (RFC 6134); otherwise its addresses are written out"
            placeholder="tag:mill.example,2026:team"
            defaultValue={choices.lists[id] ?? ''}
            onBlur={(event) => {
              const { [id]: _before, ...others } = choices.lists;
              const called = event.currentTarget.value.trim();
              const changed = called === '' ? others : { ...others, [id]: called };
              if (called !== (choices.lists[id] ?? '')) onSet({ choices: { ...choices, lists: changed } });
            }}
          />
        ))}
        <div className={classes.row}>
          <span>Rules that are off are</span>
          <SegmentedControl<typeof choices.off>
            size="xs"
            aria-label="Rules that are off"
            value={choices.off}
            data={[
              { value: 'left out', label: 'left out' },
              { value: 'as comments', label: 'kept as comments' },
            ]}
            onChange={(off) => onSet({ choices: { ...choices, off } })}
          />
        </div>
        <div className={classes.row}>
          <span>Mail that the server cannot reject is</span>
          <SegmentedControl<typeof choices.refused>
            size="xs"
            aria-label="Mail that cannot be rejected"
            value={choices.refused}
            data={['dropped', 'kept']}
            onChange={(refused) => onSet({ choices: { ...choices, refused } })}
          />
        </div>
      </details>
    </section>
  );
}
