/** A certificate that vouches for itself, and its key, both as PEM. */
export interface SelfSigned {
  readonly cert: string;
  readonly key: string;
}

/** Makes a certificate for a host name that is good from a day before now until a year after. */
export async function selfSigned(name: string, now: number): Promise<SelfSigned> {
  // It is large, and needed by the server that is played alone.
  const { generate } = await import('selfsigned');
  const day = 86_400_000;
  const { cert, private: key } = await generate([{ name: 'commonName', value: name }], {
    keyType: 'ec',
    curve: 'P-256',
    algorithm: 'sha256',
    notBeforeDate: new Date(now - day),
    notAfterDate: new Date(now + 365 * day),
    // The names that it vouches for (RFC 5280 section 4.2.1.6); 2 is a DNS name.
    extensions: [{ name: 'subjectAltName', altNames: [{ type: 2, value: name }] }],
  });
  return { cert, key };
}
