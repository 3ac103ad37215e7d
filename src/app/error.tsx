'use client';

import { Button } from '@mantine/core';
import { Notice } from '../ui/common/Notice';

export default function PageError({ reset }: { error: Error; reset: () => void }) {
  return (
    <Notice title="This page could not be drawn">
      <p>The data is safe: what was saved before stays as it was. The server has written the cause to its log.</p>
      <Button onClick={reset}>Try again</Button>
    </Notice>
  );
}
