import { useState } from 'react';
import type { BodyView, TextView } from '../../server/mail/message-view';
import { formatBytes } from '../common/format';
import { TextButton } from '../common/TextButton';
import { MarkedText } from './MarkedText';
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
