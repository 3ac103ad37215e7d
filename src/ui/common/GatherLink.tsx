import Link from 'next/link';

export function GatherLink({ auditId, words }: { auditId: string; words: string }) {
  return (
    <p>
      <Link href={`/audits/${auditId}/gather`}>{words}</Link>
    </p>
  );
}
