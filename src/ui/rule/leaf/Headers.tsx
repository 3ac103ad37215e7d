import { Names } from '../fields';

const HEADERS = [
  'Subject',
  'List-Id',
  'Sender',
  'Reply-To',
  'Return-Path',
  'X-Spam-Flag',
  'Auto-Submitted',
  'Precedence',
];

/** Names of header fields, the usual ones offered. */
export function Headers({ headers, onChange }: { headers: readonly string[]; onChange: (headers: string[]) => void }) {
  return (
    <Names
      label="Names of headers"
      placeholder="name of the header"
      names={headers}
      offers={HEADERS}
      onChange={onChange}
    />
  );
}
