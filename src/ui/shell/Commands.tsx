'use client';

import { createSpotlight, Spotlight } from '@mantine/spotlight';
import { useRouter } from 'next/navigation';
import { PLACES, VIEWS, type View } from '../../views';
import { call, tell } from '../common/api';

const [palette, actions] = createSpotlight();

const WITH_PLACES_FIRST: readonly View[] = [...new Set<View>([...PLACES, ...VIEWS])];

export const openCommands = () => actions.open();

/** One palette for all commands, by keyboard (Ctrl or Cmd + K). */
export function Commands({ auditId }: { auditId: string }) {
  const router = useRouter();
  const post = (path: string, body?: unknown) =>
    call(`/api/audits/${auditId}/${path}`, 'POST', body)
      .then(() => router.refresh())
      .catch(tell);
  return (
    <Spotlight
      store={palette}
      shortcut={['mod + K']}
      highlightQuery
      searchProps={{ placeholder: 'Type a command', 'aria-label': 'Type a command' }}
      nothingFound="No such command"
      actions={[
        ...WITH_PLACES_FIRST.map(({ path, command, about }) => ({
          id: path,
          label: command,
          ...(about === undefined ? {} : { description: about }),
          onClick: () => router.push(`/audits/${auditId}/${path}`),
        })),
        {
          id: 'help',
          label: 'See what the words of the audit mean, and the keys',
          onClick: () => router.push('/help'),
        },
        { id: 'language', label: 'See what may stand in a script', onClick: () => router.push('/language') },
        { id: 'undo', label: 'Undo the last change', onClick: () => void post('undo') },
        { id: 'redo', label: 'Redo the change undone last', onClick: () => void post('redo') },
        { id: 'simulate', label: 'Simulate and audit again', onClick: () => void post('jobs', { kind: 'simulate' }) },
        { id: 'verify', label: 'Verify the script', onClick: () => void post('jobs', { kind: 'verify' }) },
        { id: 'audits', label: 'See all audits', onClick: () => router.push('/') },
      ]}
    />
  );
}
