import type { Metadata } from 'next';
import { Help } from '../../ui/help/Help';

export const metadata: Metadata = { title: 'What the audit says' };

export default function Page() {
  return <Help />;
}
