'use client';

import { useState } from 'react';
import { TextButton } from '../common/TextButton';
import classes from './Message.module.css';

/** Octets of a message that are shown as they came. */
const SHOWN = 256 * 1024;

/** The message as it came, as text, once it is asked for. */
export function Source({ auditId, number }: { auditId: string; number: number }) {
  const [text, setText] = useState<string | null>(null);
  const show = async () => {
    try {
      const response = await fetch(`/api/audits/${auditId}/messages/${number}`);
      const octets = new Uint8Array(await response.arrayBuffer());
      const more = octets.length > SHOWN ? '\n…' : '';
      setText(new TextDecoder('windows-1252').decode(octets.subarray(0, SHOWN)) + more);
    } catch {
      setText('The server does not answer.');
    }
  };
  if (text === null) {
    return <TextButton onClick={show}>Show it as it came</TextButton>;
  }
  return (
    <>
      <TextButton onClick={() => setText(null)}>Hide it as it came</TextButton>
      <pre className={classes.source}>{text}</pre>
    </>
  );
}
