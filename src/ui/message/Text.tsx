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
      {fault && <p className={classes.odd}>Its parts could not all be read: {fault}.</p>}
      {texts.length === 0 && <p className={classes.soft}>This message has no text.</p>}
      {texts.map((text, index) => (
        <Text key={String(index)} text={text} alone={texts.length === 1} />
      ))}
      {attachments.length > 0 && (
        <ul className={classes.attachments}>
          {attachments.map(({ name, type, octets }, index) => (
            <li key={String(index)}>
              Attached, not opened: <bdi>{name ?? 'a file without a name'}</bdi> ({type}, {formatBytes(octets)})
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** One text; a second form of the same text is shown on request, or where a test met words in it. */
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
              , another form of the text above ·{' '}
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

/** Header fields with the words that made tests hold. */
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

/** A text with the words that tests met marked; the numbers of the rules stand where their words end. */
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
