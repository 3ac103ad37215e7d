'use client';

import { ActionIcon, useMantineColorScheme } from '@mantine/core';
import { IconSearch, IconSunMoon } from '@tabler/icons-react';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import type { ReactNode } from 'react';
import { PLACES, viewAt } from '../../views';
import { useJobs } from '../common/jobs';
import { TintPatterns } from '../common/tints';
import { Everywhere, openSearch } from './Everywhere';
import { JobStrip } from './JobStrip';
import classes from './Shell.module.css';

/** The frame of an audit: navigation in the order of the work, and running jobs. */
export function Shell({ auditId, name, children }: { auditId: string; name: string; children: ReactNode }) {
  const pathname = usePathname();
  const view = viewAt(pathname.slice(`/audits/${auditId}/`.length));
  const here = view?.place ?? null;
  const jobs = useJobs(auditId);
  const { setColorScheme, colorScheme } = useMantineColorScheme();
  return (
    <div className={classes.frame}>
      <TintPatterns />
      <button type="button" className={classes.skip} onClick={() => document.getElementById('view')?.focus()}>
        Skip to the view
      </button>
      <header className={classes.head}>
        <Link href="/" className={classes.mark}>
          Ysomeris
        </Link>
        <span className={classes.audit} title={name}>
          <bdi>{name}</bdi>
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
          aria-label="Find (Ctrl K)"
          title="Find rules, folders, messages, findings, pages and actions (Ctrl K)"
          onClick={openSearch}
        >
          <IconSearch size={18} />
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
      <main id="view" tabIndex={-1} className={classes.main} data-wide={view?.isWide}>
        {view?.isWide && (
          <p className={classes.narrow}>
            {view.title}: this page needs a window of at least 760 pixels. The{' '}
            <Link href={`/audits/${auditId}/plan`}>plan</Link>, the findings and your mail can be read here.
          </p>
        )}
        {children}
      </main>
      <JobStrip jobs={jobs} />
      <Everywhere auditId={auditId} />
    </div>
  );
}
