import type { Metadata } from 'next';
import { LanguagePage } from '../../ui/language/LanguagePage';

export const metadata: Metadata = { title: 'The language of scripts' };

export default function Page() {
  return <LanguagePage />;
}
