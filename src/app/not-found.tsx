import Link from 'next/link';
import { Notice } from '../ui/common/Notice';

export default function NotFound() {
  return (
    <Notice title="Nothing was found at this address">
      <p>
        The audit, rule or message may have been removed. <Link href="/">All audits</Link>
      </p>
    </Notice>
  );
}
