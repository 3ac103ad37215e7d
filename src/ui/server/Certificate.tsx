import { Checkbox } from '@mantine/core';
import { useState } from 'react';
import type { Untrusted } from '../../server/handover/mail-server';
import { WhyButton } from '../common/WhyButton';
import classes from './MailServer.module.css';

/** A certificate that nobody vouches for: the user looks at it, and says whether it is the right one. */
export function Certificate({ untrusted, onTrust }: { untrusted: Untrusted['untrusted']; onTrust: () => void }) {
  const [seen, setSeen] = useState(false);
  return (
    <section className={classes.certificate} aria-label="The certificate">
      <p>
        <strong>The certificate of this server cannot be trusted</strong>: {untrusted.reason}
        {untrusted.subject && `, for “${untrusted.subject}”`}. Nothing has been sent to the server yet. Ask its
        administrator whether this is its fingerprint (SHA-256):
      </p>
      <p className="mono">{untrusted.fingerprint}</p>
      <Checkbox
        size="xs"
        label="I have compared the fingerprint, and it is correct"
        checked={seen}
        onChange={(event) => setSeen(event.currentTarget.checked)}
      />
      <WhyButton
        size="compact-sm"
        variant="default"
        why={!seen ? 'Compare the fingerprint first, and say so above.' : null}
        onClick={onTrust}
      >
        Trust this certificate
      </WhyButton>
    </section>
  );
}
