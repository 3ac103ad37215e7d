import Link from 'next/link';
import classes from './Gather.module.css';

/** How rules and mail usually come out of where they are, in general words. */
export function Whence({ auditId }: { auditId: string }) {
  return (
    <details className={classes.whence}>
      <summary>Where do I get my rules and my mail?</summary>
      <dl>
        <dt>A program on your computer</dt>
        <dd>
          Some can export their rules. If yours cannot, read them off and{' '}
          <Link href={`/audits/${auditId}/sheet`}>type them in</Link>, one row for each rule. Mail is mostly kept in
          mbox files or a Maildir, and can often be saved as .eml files or folders of them.
        </dd>
        <dt>Mail in the browser</dt>
        <dd>
          Rules can hardly ever be exported: open the list of rules beside this window and{' '}
          <Link href={`/audits/${auditId}/sheet`}>type them in</Link>. All mail of an account can mostly be downloaded
          in its settings, as an archive or an mbox file.
        </dd>
        <dt>A mail server</dt>
        <dd>
          Scripts in Sieve come <Link href={`/audits/${auditId}/server`}>straight from the server</Link>. Whoever runs
          it can give you your Maildir as an archive.
        </dd>
        <dt>None of these works?</dt>
        <dd>
          Begin with the rules alone: what is wrong with them for any message is found without mail.{' '}
          <Link href={`/audits/${auditId}/program`}>Say how your program runs them</Link>, since programs differ.
        </dd>
      </dl>
    </details>
  );
}
