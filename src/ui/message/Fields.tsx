import type { FieldView } from '../../server/mail/message-view';
import { MarkedText } from './MarkedText';
import classes from './Message.module.css';

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
