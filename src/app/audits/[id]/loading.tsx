import { Skeleton } from '@mantine/core';

export default function Loading() {
  return (
    <div style={{ padding: 18 }}>
      {Array.from({ length: 12 }, (_, line) => (
        <Skeleton key={String(line)} height={22} mb={10} width={`${92 - ((line * 13) % 40)}%`} />
      ))}
    </div>
  );
}
