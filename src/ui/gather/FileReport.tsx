'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { useRef, useState } from 'react';
import { elementAt } from '../../core/text/lookup';
import type { SourceView } from '../../server/gather/view';
import { filesAnswer } from '../../server/http/answers';
import type { FileLine } from '../../server/jobs/file-report';
import { useAnswer } from '../common/answers';
import { formatNumber, messagesWord } from '../common/format';
import { TextButton } from '../common/TextButton';
import classes from './Gather.module.css';

/** Result for each file of an archive or a folder, shown on demand. */
export function FileReport({ auditId, source }: { auditId: string; source: SourceView }) {
  const [open, setOpen] = useState(false);
  const path = open ? `/api/audits/${auditId}/sources/${source.id}` : null;
  const { answer: lines, failure } = useAnswer(filesAnswer, path);
  const passed = source.passedOver > 0 ? `, ${formatNumber(source.passedOver)} skipped` : '';
  return (
    <>
      <p>
        <TextButton aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'hide' : 'show'} contents of {source.files === 1 ? 'the' : 'each'}{' '}
          {source.mailbox ? 'folder' : 'file'}
        </TextButton>{' '}
        ({formatNumber(source.files)}
        {passed})
      </p>
      {failure && <p className={classes.refused}>{failure}</p>}
      {lines && <Lines auditId={auditId} sourceId={source.id} lines={lines} />}
    </>
  );
}

const LINE_HEIGHT = 28;

interface LinesProps {
  readonly auditId: string;
  readonly sourceId: string;
  readonly lines: readonly FileLine[];
}

/** A virtual list, since a folder may contain thousands of files. */
function Lines({ auditId, sourceId, lines }: LinesProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE_HEIGHT,
    overscan: 10,
  });
  return (
    <div ref={scroller} className={classes.files} tabIndex={0} role="list" aria-label="Result for each file">
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const line = elementAt(lines, index);
          return (
            <div key={index} role="listitem" className={classes.file} style={{ top: start }}>
              <span className={classes.filePath} title={line.path} dir="auto">
                {pathWords(line)}
              </span>
              <span className={line.passedOver ? classes.refused : undefined}>
                {line.messages > 0 && (
                  <Link href={`/audits/${auditId}/mail?source=${sourceId}&file=${index}`}>
                    {messagesWord(line.messages)}
                  </Link>
                )}
                {remarks(line)}
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}

const pathWords = ({ path, many }: FileLine): string =>
  many ? `single messages in ${path || 'the top folder'}` : path;

function remarks({ messages, repeated, odd, passedOver }: FileLine): string {
  const parts = [
    odd > 0 ? `${formatNumber(odd)} irregular` : '',
    repeated > 0 ? `${formatNumber(repeated)} already imported` : '',
    passedOver ? `skipped: ${passedOver}` : '',
  ].filter(Boolean);
  return (messages > 0 && parts.length > 0 ? ', ' : '') + parts.join(', ');
}
