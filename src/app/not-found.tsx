import Link from 'next/link';
import { Notice } from '../ui/common/Notice';

export default function NotFound() {
  return (
    <Notice title="There is nothing at this address">
      <p>
        The audit, rule or message may have been removed. <Link href="/">See all audits</Link>
      </p>
    </Notice>
  );
}
