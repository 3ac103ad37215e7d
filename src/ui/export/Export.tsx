'use client';

import { Checkbox } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { ExportView } from '../../server/handover/export-view';
import { call, tell } from '../common/api';
import { formatBytes, formatMoment, formatNumber } from '../common/format';
import { NoRules } from '../common/Notice';
import { ofManyRules } from '../common/ofManyRules';
import { Costs } from './Costs';
import classes from './Export.module.css';
import { FolderNamesOf } from './FolderNamesOf';
import { ForWhom } from './ForWhom';
import { Gate } from './Gate';
import type { HandoverChange } from './handoverChange';
import { Record } from './Record';

/** The script of the draft for a target: its differences, and the record of its verification. */
function Export({ auditId, view }: { auditId: string; view: ExportView }) {
  const router = useRouter();
  // A new setting is shown at once; its consequences come from the server.
  const [settings, setSettings] = useState(view.settings);
  useEffect(() => setSettings(view.settings), [view.settings]);
  if (view.rules === 0 && view.leftOut.length === 0 && view.costs.length === 0) {
    return (
      <NoRules auditId={auditId} title="There is nothing to export yet">
        Here the rules become a Sieve script for your server, proved to do the same as the rules.
      </NoRules>
    );
  }
  const set = async ({ said, ...change }: HandoverChange) => {
    setSettings({ ...settings, ...change });
    try {
      await call(`/api/audits/${auditId}/handover`, 'PUT', said === undefined ? change : { ...change, said });
      router.refresh();
    } catch (error) {
      tell(error);
    }
  };
  return (
    <div className={classes.page}>
      <section className={classes.record} aria-label="Exporting the script">
        <Record auditId={auditId} view={view} />
        <Gate auditId={auditId} gate={view.gate} />
        <ForWhom settings={settings} targets={view.targets} server={view.server} lists={view.lists} onSet={set} />
        <FolderNamesOf
          names={settings.choices.folders}
          folders={view.folders}
          blocks={view.blocks}
          onSet={(folders) => set({ choices: { ...settings.choices, folders } })}
        />
        <Costs auditId={auditId} view={view} settings={settings} onSet={set} />
        <Reports auditId={auditId} />
        <dl className={classes.facts}>
          <dt>Rules in the script</dt>
          <dd>
            {formatNumber(view.rules)}, in {formatBytes(view.octets)}
          </dd>
          <dt>It requires</dt>
          <dd className="mono">{view.requires.length === 0 ? 'nothing' : view.requires.join(', ')}</dd>
          {view.folders.length > 0 && (
            <>
              <dt>Folders that must exist</dt>
              <dd>
                {view.folders.map(({ here, there, isMissing }, at) => (
                  <span key={here}>
                    {at > 0 && ', '}
                    <bdi>{there}</bdi>
                    {isMissing && ' (not there yet)'}
                  </span>
                ))}
              </dd>
            </>
          )}
          {view.leftOut.length > 0 && (
            <>
              <dt>Not in the script</dt>
              <dd>
                <ul className={classes.plain}>
                  {view.leftOut.map(({ name, reason }) => (
                    <li key={name}>
                      <bdi>{name}</bdi>: {reason}
                    </li>
                  ))}
                </ul>
              </dd>
            </>
          )}
          {view.handed.length > 0 && (
            <>
              <dt>Exported before</dt>
              <dd>
                <ul className={classes.plain}>
                  {view.handed.map(({ id, place, createdAt, hash }) => (
                    <li key={id}>
                      <a href={`/api/audits/${auditId}/handed/${id}`}>{formatMoment(createdAt)}</a>, {place}, SHA-256{' '}
                      <span className="mono">{hash.slice(0, 12)}…</span>
                    </li>
                  ))}
                </ul>
              </dd>
            </>
          )}
        </dl>
      </section>
      <section className={classes.script} aria-label="The script" tabIndex={0}>
        <pre>{view.text}</pre>
      </section>
    </div>
  );
}

export const ExportFromText = ofManyRules(Export);

/** The report. */
function Reports({ auditId }: { auditId: string }) {
  const [discreet, setDiscreet] = useState(false);
  const hrefOf = (form: string) => `/api/audits/${auditId}/report?form=${form}${discreet ? '&discreet=1' : ''}`;
  return (
    <section aria-label="Report">
      <h2 className={classes.heading}>A report to read, print and share</h2>
      <Checkbox
        size="xs"
        label="without addresses, subjects and keys of rules"
        checked={discreet}
        onChange={(event) => setDiscreet(event.currentTarget.checked)}
      />
      <p>
        <a href={hrefOf('html')}>as one page</a> or <a href={hrefOf('markdown')}>as Markdown</a>
      </p>
      <h2 className={classes.heading}>For a program that takes no script</h2>
      <p>
        <Link href={`/audits/${auditId}/steps`}>The changes as steps by hand</Link>
      </p>
      <h2 className={classes.heading}>In other formats</h2>
      <p>
        <a href={`/api/audits/${auditId}/archive`}>the whole audit without its mail</a>, or{' '}
        <a href={`/api/audits/${auditId}/archive?mail`}>with its mail</a>, which can be opened on the first page;{' '}
        <a href={`/api/audits/${auditId}/sheet`}>the rules as a sheet</a>, or{' '}
        <a href={`/api/audits/${auditId}/sentences`}>as sentences</a>
      </p>
    </section>
  );
}
