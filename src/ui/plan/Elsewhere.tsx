'use client';

import { Autocomplete, Button } from '@mantine/core';
import { useState } from 'react';
import type { Destination } from '../../core/fates/destination';
import { WhyButton } from '../common/WhyButton';
import classes from './Plan.module.css';

interface Props {
  readonly folders: readonly string[];
  readonly onWanted: (destination: Destination) => void;
}

/** Any other destination for the message of a question. */
export function Elsewhere({ folders, onWanted }: Props) {
  const [folder, setFolder] = useState('');
  const into = (names: readonly string[]): Destination => ({ folders: names, redirects: [], rejected: false });
  return (
    <form
      className={classes.elsewhere}
      onSubmit={(event) => {
        event.preventDefault();
        if (folder.trim() !== '') onWanted(into([folder.trim()]));
      }}
    >
      <Autocomplete
        size="xs"
        aria-label="Folder that this message belongs in"
        placeholder="a folder"
        autoFocus
        data={[...folders]}
        limit={12}
        maxLength={500}
        value={folder}
        onChange={setFolder}
      />
      <WhyButton
        type="submit"
        size="compact-sm"
        variant="default"
        why={folder.trim() === '' ? 'Enter a folder.' : null}
      >
        Choose this folder
      </WhyButton>
      <Button size="compact-sm" variant="subtle" onClick={() => onWanted(into(['INBOX']))}>
        Inbox
      </Button>
      <Button size="compact-sm" variant="subtle" onClick={() => onWanted(into([]))}>
        Discarded
      </Button>
    </form>
  );
}
