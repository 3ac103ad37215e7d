import '@mantine/core/styles.css';
import '@mantine/dates/styles.css';
import '@mantine/notifications/styles.css';
import '@mantine/spotlight/styles.css';
import '@fontsource-variable/source-sans-3/index.css';
import '@fontsource-variable/source-code-pro/index.css';
// A browser loads only the parts of these that a page needs, and only where no earlier font has the character.
import '@fontsource-variable/noto-sans-jp/index.css';
import '@fontsource-variable/noto-emoji/index.css';
import '@fontsource-variable/noto-sans-arabic/index.css';
import '@fontsource-variable/noto-sans-devanagari/index.css';
import '../ui/global.css';
import { ColorSchemeScript, mantineHtmlProps } from '@mantine/core';
import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import { Providers } from '../ui/providers';

export const metadata: Metadata = {
  title: { default: 'Ysomeris', template: '%s · Ysomeris' },
  description: 'Audits incoming-mail rules on stored mail.',
};

export const dynamic = 'force-dynamic';

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? '';
  return (
    <html lang="en" {...mantineHtmlProps}>
      <head>
        <ColorSchemeScript nonce={nonce} defaultColorScheme="auto" />
      </head>
      <body>
        <Providers nonce={nonce}>{children}</Providers>
      </body>
    </html>
  );
}
