import { Recipients } from '../../core/audit/packed-messages';
import type { Steps } from '../../core/audit/stepwise';
import type { Bitmap } from '../../core/flow/bitmap';
import { type Dictionary, DictionaryBuilder, unpackAddress } from '../../core/flow/columns';
import { addressText } from '../../core/mail/address';
import { elementAt } from '../../core/text/lookup';
import type { StoredColumns } from './columns';

/** The addresses in a field of the messages that are there, in lower case; null for all messages. */
export function* recipientsOf(
  columns: StoredColumns,
  field: 'to' | 'cc' | 'bcc',
  isThere: Bitmap | null,
): Steps<Recipients> {
  const builder = new DictionaryBuilder();
  for (const piece of columns.piecesByValue(`address:${field}`)) {
    builder.addPiece(piece, isThere ? (number) => isThere.has(number) : undefined);
    yield;
  }
  const { terms, messages: numbers, places } = sorted(builder.take());
  const addresses = terms.map((value) => addressText({ display: '', ...unpackAddress(value) }).toLowerCase());
  return new Recipients(addresses, numbers, places, columns.count);
}

/** By message: those with very many fields come last in a column. */
function sorted(column: Dictionary): Dictionary {
  const { terms, messages: numbers, places } = column;
  if (numbers.every((number, at) => at === 0 || number >= elementAt(numbers, at - 1))) return column;
  const order = Uint32Array.from(numbers.keys()).sort((a, b) => elementAt(numbers, a) - elementAt(numbers, b) || a - b);
  return {
    terms,
    messages: order.map((at) => elementAt(numbers, at)),
    places: order.map((at) => elementAt(places, at)),
  };
}
