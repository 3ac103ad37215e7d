import { SegmentedControl, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import { type FolderNames, likelyThere, nameThere } from '../../core/handover/folder-names';
import { joined } from '../../core/rules/words';
import type { ExportView } from '../../server/handover/export-view';
import { WhyButton } from '../common/WhyButton';
import classes from './Export.module.css';

interface Props {
  readonly names: FolderNames;
  readonly folders: ExportView['folders'];
  readonly blocks: ExportView['blocks'];
  readonly onSet: (names: FolderNames) => void;
}

/** How the folders of the rules are called on the server. */
export function FolderNamesOf({ names, folders, blocks, onSet }: Props) {
  const [list, setList] = useState(names.there.join('\n'));
  if (folders.length === 0) return null;
  const renamed = folders.filter(({ here, there }) => here !== there).length;
  const missing = folders.filter(({ isMissing }) => isMissing).length;
  /** With the names of the list, where they can only mean one folder. */
  const withList = () => {
    const there = list.split('\n').flatMap((line) => line.trim() || []);
    const known = new Set(there);
    const found = folders.flatMap(({ here }) => {
      const name = known.has(nameThere(here, names)) ? null : likelyThere(here, there);
      return name === null ? [] : [[here, name]];
    });
    onSet({ ...names, there, renamed: { ...names.renamed, ...Object.fromEntries(found) } });
  };
  const rename = (here: string, name: string) => {
    const { [here]: _before, ...others } = names.renamed;
    const plain = nameThere(here, { ...names, renamed: others });
    if (name !== nameThere(here, names)) {
      onSet({ ...names, renamed: name === '' || name === plain ? others : { ...others, [here]: name } });
    }
  };
  return (
    <details className={classes.more}>
      <summary>
        Folders on the server{renamed > 0 && `, ${renamed} with other names`}
        {missing > 0 && `, ${missing} not there yet`}
      </summary>
      <div className={classes.row}>
        <TextInput
          size="xs"
          label="Every name begins with"
          placeholder="nothing"
          key={names.prefix}
          defaultValue={names.prefix}
          onBlur={(event) => {
            const prefix = event.currentTarget.value.trim();
            if (prefix !== names.prefix) onSet({ ...names, prefix });
          }}
        />
        <SegmentedControl<FolderNames['separator']>
          size="xs"
          aria-label="Between levels of a name"
          value={names.separator}
          data={[
            { value: '', label: 'levels as in the rules' },
            { value: '/', label: 'A/B' },
            { value: '.', label: 'A.B' },
          ]}
          onChange={(separator) => onSet({ ...names, separator })}
        />
      </div>
      <Textarea
        size="xs"
        label="The server's folders, one a line"
        description="if you have a list: names that can only mean one folder are taken from it, and what is missing is told"
        autosize
        minRows={2}
        maxRows={6}
        value={list}
        onChange={(event) => setList(event.currentTarget.value)}
      />
      <WhyButton
        size="compact-sm"
        variant="default"
        why={list.trim() === names.there.join('\n') ? 'Change the list first.' : null}
        onClick={withList}
      >
        Use the list
      </WhyButton>
      <table className={classes.names} aria-label="Names of folders">
        <thead>
          <tr>
            <th scope="col">In the rules</th>
            <th scope="col">On the server</th>
          </tr>
        </thead>
        <tbody>
          {folders.map(({ here, there, isMissing }) => (
            <tr key={here}>
              <th scope="row">
                <bdi>{here}</bdi>
              </th>
              <td>
                <TextInput
                  size="xs"
                  aria-label={`Name of “${here}” on the server`}
                  key={there}
                  defaultValue={there}
                  description={isMissing ? 'not in the list' : undefined}
                  onBlur={(event) => rename(here, event.currentTarget.value.trim())}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {blocks.length > 0 && (
        <p>
          Names that variables make in{' '}
          {joined(
            blocks.map((name) => `“${name}”`),
            'and',
          )}{' '}
          stay as written.
        </p>
      )}
    </details>
  );
}
