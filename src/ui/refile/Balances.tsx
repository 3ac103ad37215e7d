import Link from 'next/link';
import type { Balance } from '../../core/flow/applied';
import type { PlaceBalance } from '../../server/mail/refile-plan';
import { formatNumber } from '../common/format';
import classes from './Refile.module.css';

interface Props {
  readonly places: readonly PlaceBalance[];
  /** The address of the messages behind a number. */
  readonly pathOf: (place: string, part: keyof Balance, of: Measure) => string;
}

type Measure = 'messages' | 'conversations' | 'unread';

const PARTS = ['before', 'left', 'came', 'after'] as const;

/** Messages, conversations and unread mail of each place: what was there, less what left, plus what came, is there. */
export function Balances({ places, pathOf }: Props) {
  const hasConversations = places.some(({ conversations }) => conversations !== null);
  const hasUnread = places.some(({ unread }) => unread !== null);
  return (
    <table className={classes.table} aria-label="Each place before and after">
      <thead>
        <tr>
          <td className={classes.group} />
          <th colSpan={4} scope="colgroup" className={classes.group}>
            Messages
          </th>
          {hasConversations && (
            <th colSpan={4} scope="colgroup" className={classes.group}>
              Conversations
            </th>
          )}
          {hasUnread && (
            <th colSpan={4} scope="colgroup" className={classes.group}>
              Unread
            </th>
          )}
        </tr>
        <tr>
          <th scope="col">Place</th>
          <PartNames />
          {hasConversations && <PartNames />}
          {hasUnread && <PartNames />}
        </tr>
      </thead>
      <tbody>
        {places.map(({ place, messages, conversations, unread }) => (
          <tr key={place}>
            <th scope="row" className={classes.place} title={place}>
              <bdi>{place}</bdi>
            </th>
            <Parts balance={messages} pathOf={(part) => pathOf(place, part, 'messages')} />
            {hasConversations && (
              <Parts balance={conversations} pathOf={(part) => pathOf(place, part, 'conversations')} />
            )}
            {hasUnread && <Parts balance={unread} pathOf={(part) => pathOf(place, part, 'unread')} />}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const PartNames = () =>
  ['was', 'left', 'came', 'is'].map((name) => (
    <th key={name} scope="col" className={classes.number} data-first={name === 'was' || undefined}>
      {name}
    </th>
  ));

interface PartsProps {
  readonly balance: Balance | null;
  readonly pathOf: (part: keyof Balance) => string;
}

const Parts = ({ balance, pathOf }: PartsProps) =>
  PARTS.map((part) => (
    <td key={part} className={classes.number} data-first={part === 'before' || undefined}>
      {balance &&
        (balance[part] === 0 ? (
          <span className={classes.none}>0</span>
        ) : (
          <Link href={pathOf(part)}>{written(balance, part)}</Link>
        ))}
    </td>
  ));

const SIGNS = { before: '', left: '−', came: '+', after: '' } as const;

const written = (balance: Balance, part: keyof Balance): string => `${SIGNS[part]}${formatNumber(balance[part])}`;
