'use client';

import { structuredPatch } from 'diff';
import { useMemo } from 'react';
import { formatNumber } from './format';
import classes from './TextDifferences.module.css';

interface Props {
  readonly texts: readonly [string, string];
  readonly names: readonly [string, string];
}

/** Context lines around a difference. */
const CONTEXT = 3;
const SHOWN_HUNKS = 60;

/** Where the scripts differ, line by line. */
export function TextDifferences({ texts, names }: Props) {
  const hunks = useMemo(() => structuredPatch('', '', texts[0], texts[1], '', '', { context: CONTEXT }).hunks, [texts]);
  return (
    <details className={classes.details}>
      <summary>
        As scripts: {formatNumber(hunks.length)} {hunks.length === 1 ? 'difference' : 'differences'}
      </summary>
      <p className={classes.from}>
        − {names[0]}, + {names[1]}
      </p>
      {hunks.slice(0, SHOWN_HUNKS).map((hunk) => (
        <pre key={`${hunk.oldStart} ${hunk.newStart}`} className={classes.hunk} dir="auto">
          <span className={classes.from}>from line {hunk.newStart}</span>
          {'\n'}
          {hunk.lines
            .filter((line) => !line.startsWith('\\'))
            .map((line, at) => (
              <span key={at} data-change={line.startsWith('+') ? 'added' : line.startsWith('-') ? 'gone' : undefined}>
                {line.replace(/^-/, '−')}
                {'\n'}
              </span>
            ))}
        </pre>
      ))}
      {hunks.length > SHOWN_HUNKS && <p>and {formatNumber(hunks.length - SHOWN_HUNKS)} more differences</p>}
    </details>
  );
}
