'use client';

import { ActionIcon, useMantineColorScheme } from '@mantine/core';
import { IconCommand, IconSunMoon } from '@tabler/icons-react';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import type { ReactNode } from 'react';
import { PLACES, placeAt } from '../../views';
import { TintPatterns } from '../common/tints';
import { useJobs } from '../common/useJobs';
import { Commands, openCommands } from './Commands';
import { JobStrip } from './JobStrip';
import classes from './Shell.module.css';

/** The frame of an audit: its places in the order of the work, and what is under way. */
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
        <nav className={classes.places} aria-label="Places of the work">
          {PLACES.map(({ path, title }) => (
            <Link
              key={path}
              href={`/audits/${auditId}/${path}`}
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
