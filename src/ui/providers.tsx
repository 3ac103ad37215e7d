'use client';

import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { setNonce } from 'get-nonce';
import { type ReactNode, useState } from 'react';
import { theme, variables } from './theme';

/** The nonce of the page's first answer stays: a revalidation brings a new one that the policy does not know. */
export function Providers({ nonce, children }: { nonce: string; children: ReactNode }) {
  const [pinned] = useState(nonce);
  setNonce(pinned);
  return (
    <MantineProvider
      theme={theme}
      cssVariablesResolver={variables}
      defaultColorScheme="auto"
      getStyleNonce={() => pinned}
    >
      <Notifications position="bottom-left" limit={3} />
      {children}
    </MantineProvider>
  );
}
