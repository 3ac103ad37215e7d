import { Button, NumberInput, Radio, SegmentedControl, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { ExportView } from '../../server/handover/export-view';
import classes from './Export.module.css';
import type { HandoverChange } from './handoverChange';

interface Props {
  readonly settings: ExportView['settings'];
  readonly targets: ExportView['targets'];
  readonly lists: ExportView['lists'];
  readonly onSet: (change: HandoverChange) => void;
}

const LIMITS = [
  ['strings', 'strings in a list'],
  ['octets', 'bytes of the script'],
  ['redirects', 'redirects of a message'],
  ['nesting', 'levels of tests within tests'],
] as const;

/** What the server understands, and what is decided where it does not. */
export function ForWhom({ settings, targets, lists, onSet }: Props) {
  const { choices, limits, capabilities } = settings;
  const [said, setSaid] = useState(capabilities.join(' '));
  return (
    <section aria-label="For whom it is written">
      <h2 className={classes.heading}>For a server that has</h2>
      <Radio.Group aria-label="What the server has" value={settings.target} onChange={(target) => onSet({ target })}>
        {targets.map(({ id, title, about }) => (
          <Radio key={id} size="xs" className={classes.choice} value={id} label={title} description={about} />
        ))}
        <Radio
          size="xs"
          className={classes.choice}
          value="own"
          label="what it says of itself"
          description={capabilities.length > 0 ? capabilities.join(', ') : 'paste its line of capabilities below'}
        />
      </Radio.Group>
      {settings.target === 'own' && (
        <div className={classes.said}>
          <Textarea
            size="xs"
            aria-label="Its line of capabilities"
            placeholder={'"SIEVE" "fileinto vacation imap4flags"'}
            autosize
            maxRows={4}
            classNames={{ input: 'mono' }}
            value={said}
            onChange={(event) => setSaid(event.currentTarget.value)}
          />
          <Button size="compact-sm" variant="default" disabled={said.trim() === ''} onClick={() => onSet({ said })}>
            Take it over
          </Button>
        </div>
      )}
      <details className={classes.more}>
        <summary>
          {lists.length > 0 ? 'Limits, lists, rules' : 'Limits, rules'} that are off, and mail that cannot be refused
        </summary>
        <div className={classes.limits}>
          {LIMITS.map(([name, words]) => (
            <NumberInput
              key={name}
              size="xs"
              label={`at most so many ${words}`}
              placeholder="no limit is known"
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
            label={`What the list “${name}” is called on the server`}
            description="where the server keeps it too (RFC 6134); else its addresses are written out"
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
          <span>Mail that the server cannot refuse is</span>
          <SegmentedControl<typeof choices.refused>
            size="xs"
            aria-label="Mail that cannot be refused"
            value={choices.refused}
            data={['dropped', 'kept']}
            onChange={(refused) => onSet({ choices: { ...choices, refused } })}
          />
        </div>
      </details>
    </section>
  );
}
