import type { Metadata } from 'next';
import { LanguagePage } from '../../ui/language/LanguagePage';

export const metadata: Metadata = { title: 'Sieve language reference' };

export default function Page() {
  return <LanguagePage />;
}
