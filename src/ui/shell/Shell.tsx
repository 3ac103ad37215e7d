'use client';

import { ActionIcon, useMantineColorScheme } from '@mantine/core';
import { createSpotlight, Spotlight } from '@mantine/spotlight';
import { IconCommand, IconSunMoon } from '@tabler/icons-react';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import type { ReactNode } from 'react';
import { PLACES, placeAt, VIEWS, type View } from '../../views';
import { call, tell } from '../common/api';
import { useJobs } from '../common/jobs';
import { TintPatterns } from '../common/tints';
import { JobStrip } from './JobStrip';
import classes from './Shell.module.css';

/** The frame of an audit: navigation in the order of the work, and running jobs. */
export function Shell({ auditId, name, children }: { auditId: string; name: string; children: ReactNode }) {
  const pathname = usePathname();
  const here = placeAt(pathname.slice(`/audits/${auditId}/`.length));
  const jobs = useJobs(auditId);
  const { setColorScheme, colorScheme } = useMantineColorScheme();
  return (
    <div className={classes.frame}>
      <TintPatterns />
      <header className={classes.head}>
        <Link href="/" className={classes.mark}>
          Ysomeris
        </Link>
        <span className={classes.audit} title={name}>
          {name}
        </span>
        <nav className={classes.places} aria-label="Main views">
          {PLACES.map(({ path, first, title }) => (
            <Link
              key={path}
              href={`/audits/${auditId}/${first ?? path}`}
              className={classes.place}
              aria-current={path === here ? 'page' : undefined}
            >
              {title}
            </Link>
          ))}
        </nav>
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label="Commands (Ctrl K)"
          title="Commands (Ctrl K)"
          onClick={openCommands}
        >
          <IconCommand size={18} />
        </ActionIcon>
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label="Light or dark"
          title="Light or dark"
          onClick={() => setColorScheme(colorScheme === 'dark' ? 'light' : 'dark')}
        >
          <IconSunMoon size={18} />
        </ActionIcon>
      </header>
      <main className={classes.main}>{children}</main>
      <JobStrip jobs={jobs} />
      <Commands auditId={auditId} />
    </div>
  );
}

const [palette, actions] = createSpotlight();

const WITH_PLACES_FIRST: readonly View[] = [...new Set<View>([...PLACES, ...VIEWS])];

const openCommands = () => actions.open();

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
      nothingFound="No command found"
      actions={[
        ...WITH_PLACES_FIRST.map(({ path, command, about }) => ({
          id: path,
          label: command,
          ...(about === undefined ? {} : { description: about }),
          onClick: () => router.push(`/audits/${auditId}/${path}`),
        })),
        {
          id: 'help',
          label: 'Findings, certainty and keyboard shortcuts',
          onClick: () => router.push('/help'),
        },
        { id: 'language', label: 'Sieve language reference', onClick: () => router.push('/language') },
        { id: 'undo', label: 'Undo the last change', onClick: () => void post('undo') },
        { id: 'redo', label: 'Redo the last undone change', onClick: () => void post('redo') },
        { id: 'simulate', label: 'Simulate and audit again', onClick: () => void post('jobs', { kind: 'simulate' }) },
        { id: 'verify', label: 'Verify the script', onClick: () => void post('jobs', { kind: 'verify' }) },
        { id: 'audits', label: 'All audits', onClick: () => router.push('/') },
      ]}
    />
  );
}
