import type { Mark } from '../../server/mail/message-view';
import classes from './Message.module.css';

const SHOWN_NUMBERS = 4;

/** A text with the words that tests met marked; the numbers of the rules stand where their words end. */
export function MarkedText({ value, marks }: { value: string; marks: readonly Mark[] }) {
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
