'use client';

import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { setNonce } from 'get-nonce';
import { type ReactNode, useState } from 'react';
import { OVERLAYS, theme, variables } from './theme';

/** Each query is sent once, and dropped from the cache when nothing shows it: the chain may change. */
const ASKING = {
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, refetchOnReconnect: false, gcTime: 0 } },
};

/** The nonce of the first response stays: a revalidation brings a new one that the policy does not know. */
export function Providers({ nonce, children }: { nonce: string; children: ReactNode }) {
  const [pinned] = useState(nonce);
  const [client] = useState(() => new QueryClient(ASKING));
  setNonce(pinned);
  return (
    <MantineProvider
      theme={theme}
      cssVariablesResolver={variables}
      defaultColorScheme="auto"
      getStyleNonce={() => pinned}
    >
      <QueryClientProvider client={client}>
        <Notifications position="bottom-left" limit={3} />
        {children}
        <section id={OVERLAYS} aria-label="Open lists, menus and dialogs" />
      </QueryClientProvider>
    </MantineProvider>
  );
}
