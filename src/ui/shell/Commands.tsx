'use client';

import { createSpotlight, Spotlight } from '@mantine/spotlight';
import { useRouter } from 'next/navigation';
import { call, tell } from '../common/api';
import { PLACES } from './places';

const [palette, actions] = createSpotlight();

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
        ...PLACES.map(({ path, name, about }) => ({
          id: path,
          label: `Go to ${name}`,
          description: about,
          onClick: () => router.push(`/audits/${auditId}/${path}`),
        })),
        {
          id: 'rule',
          label: 'Add a rule at the head of the chain',
          onClick: () => router.push(`/audits/${auditId}/rule`),
        },
        {
          id: 'rules',
          label: 'Change several rules at once',
          onClick: () => router.push(`/audits/${auditId}/rules`),
        },
        {
          id: 'script',
          label: 'Edit the whole chain as Sieve',
          onClick: () => router.push(`/audits/${auditId}/script`),
        },
        {
          id: 'server',
          label: 'Speak to a server of scripts',
          onClick: () => router.push(`/audits/${auditId}/server`),
        },
        { id: 'lists', label: 'Keep lists of addresses', onClick: () => router.push(`/audits/${auditId}/lists`) },
        { id: 'sheet', label: 'Type rules in as a sheet', onClick: () => router.push(`/audits/${auditId}/sheet`) },
        {
          id: 'expectations',
          label: 'Say what must become of mail',
          onClick: () => router.push(`/audits/${auditId}/expectations`),
        },
        {
          id: 'examples',
          label: 'See what your own filing suggests',
          onClick: () => router.push(`/audits/${auditId}/examples`),
        },
        {
          id: 'together',
          label: 'See the repairs taken together',
          onClick: () => router.push(`/audits/${auditId}/findings/together`),
        },
        { id: 'flows', label: 'See where mail goes', onClick: () => router.push(`/audits/${auditId}/flows`) },
        {
          id: 'overlaps',
          label: 'See which rules meet',
          onClick: () => router.push(`/audits/${auditId}/findings/overlaps`),
        },
        {
          id: 'health',
          label: 'See the chain as a whole',
          onClick: () => router.push(`/audits/${auditId}/findings/health`),
        },
        { id: 'people', label: 'See your correspondents', onClick: () => router.push(`/audits/${auditId}/people`) },
        { id: 'probes', label: 'Try a message', onClick: () => router.push(`/audits/${auditId}/probes`) },
        { id: 'refile', label: 'File stored mail anew', onClick: () => router.push(`/audits/${auditId}/refile`) },
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
