import type { Metadata } from 'next';
import { Help } from '../../ui/help/Help';

export const metadata: Metadata = { title: 'Findings and their certainty' };

export default function Page() {
  return <Help />;
}
