'use client';

import { useState } from 'react';
import type { BodyView, FieldView, Mark, TextView } from '../../server/mail/message-view';
import { formatBytes } from '../common/format';
import { TextButton } from '../common/TextButton';
import classes from './Message.module.css';

/** The texts of a message with the words that tests met, and the files attached to it. */
export function Body({ body: { texts, attachments, fault } }: { readonly body: BodyView }) {
  return (
    <>
      {fault && <p className={classes.odd}>Some parts could not be read: {fault}.</p>}
      {texts.length === 0 && <p className={classes.soft}>This message has no text.</p>}
      {texts.map((text, index) => (
        <Text key={String(index)} text={text} alone={texts.length === 1} />
      ))}
      {attachments.length > 0 && (
        <ul className={classes.attachments}>
          {attachments.map(({ name, type, octets }, index) => (
            <li key={String(index)}>
              Attachments, not opened: <bdi>{name ?? 'unnamed file'}</bdi> ({type}, {formatBytes(octets)})
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** One text; an alternative is shown on request, or if a test matched words in it. */
function Text({ text, alone }: { readonly text: TextView; readonly alone: boolean }) {
  const [open, setOpen] = useState(!text.folded);
  const form = text.type === 'text/html' ? 'The text of the HTML part' : `The ${text.type} part`;
  return (
    <section>
      {!alone && (
        <h2 className={classes.part}>
          {form}
          {text.name !== null && (
            <>
              {' '}
              <bdi>“{text.name}”</bdi>
            </>
          )}
          {text.folded && (
            <>
              , an alternative of the text above ·{' '}
              <TextButton onClick={() => setOpen(!open)}>{open ? 'hide' : 'show'}</TextButton>
            </>
          )}
        </h2>
      )}
      {open && (
        <pre className={classes.body} dir="auto">
          <MarkedText value={text.text} marks={text.marks} />
        </pre>
      )}
    </section>
  );
}

/** Octets of the original that are shown. */
const SHOWN = 256 * 1024;

/** The original message as text, fetched on request. */
export function Source({ auditId, number }: { auditId: string; number: number }) {
  const [text, setText] = useState<string | null>(null);
  const show = async () => {
    try {
      const response = await fetch(`/api/audits/${auditId}/messages/${number}`);
      const octets = new Uint8Array(await response.arrayBuffer());
      const more = octets.length > SHOWN ? '\n…' : '';
      setText(new TextDecoder('windows-1252').decode(octets.subarray(0, SHOWN)) + more);
    } catch {
      setText('The Ysomeris server does not answer. Check that it is still running, then try again.');
    }
  };
  if (text === null) {
    return <TextButton onClick={show}>Show the original</TextButton>;
  }
  return (
    <>
      <TextButton onClick={() => setText(null)}>Hide the original</TextButton>
      <pre className={classes.source}>{text}</pre>
    </>
  );
}

/** Header fields with the words that made tests match. */
export function Fields({ fields }: { fields: readonly FieldView[] }) {
  return (
    <table className={classes.fields}>
      <tbody>
        {fields.map((field, index) => (
          <tr key={`${field.name} ${String(index)}`}>
            <th scope="row">{field.name}</th>
            <td dir="auto">
              <MarkedText value={field.value} marks={field.marks} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const SHOWN_NUMBERS = 4;

/** A text with matched words marked; the numbers of the rules are shown where their words end. */
function MarkedText({ value, marks }: { value: string; marks: readonly Mark[] }) {
  const pieces: React.ReactNode[] = [];
  let at = 0;
  for (const { span, ends } of marks) {
    const more = ends.length > SHOWN_NUMBERS ? ' …' : '';
    pieces.push(
      value.slice(at, span.start),
      <mark key={span.start} className={classes.mark}>
        {value.slice(span.start, span.end)}
        {ends.length > 0 && <sup>{ends.slice(0, SHOWN_NUMBERS).join(' ') + more}</sup>}
      </mark>,
    );
    at = span.end;
  }
  pieces.push(value.slice(at));
  return <>{pieces}</>;
}
