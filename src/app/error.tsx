'use client';

import { Button } from '@mantine/core';
import { Notice } from '../ui/common/Notice';

export default function PageError({ reset }: { error: Error; reset: () => void }) {
  return (
    <Notice title="This page could not be shown">
      <p>Your saved data is safe. The cause is in the server’s log.</p>
      <Button onClick={reset}>Try again</Button>
    </Notice>
  );
}
