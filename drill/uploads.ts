/** The same file sent several times at once, of each kind: one is imported, the others are already there. */

const FROM = 'From x@y.example Thu Jan  1 10:00:00 2026';
const message = (subject: string) =>
  `From: a@x.example\nSubject: ${subject}\nDate: Thu, 1 Jan 2026 10:00:00 +0000\n\nwords\n`;

const FILES: Readonly<Record<string, string>> = {
  'rules.sieve': '# Oak\nif header :contains "subject" "oak" { stop; }\n',
  'rules.csv': 'Rule,Sender,Folder\nGrants,office@grants.example,Grants\n',
  'one.eml': message('one'),
  'box.mbox': `${FROM}\n${message('two')}\n${FROM}\n${message('three')}\n`,
};

export interface Uploaded {
  readonly name: string;
  readonly statuses: readonly number[];
}

/** Sends each file `times` times at once. */
export async function parallelUploads(origin: string, auditId: string, times = 6): Promise<Uploaded[]> {
  const all = Object.entries(FILES).map(async ([name, text]) => {
    const answers = await Promise.all(
      Array.from({ length: times }, () =>
        fetch(`${origin}/api/audits/${auditId}/files`, {
          method: 'POST',
          headers: { 'x-file-name': name, 'content-type': 'application/octet-stream' },
          body: text,
        }),
      ),
    );
    return { name, statuses: answers.map(({ status }) => status).sort() };
  });
  return Promise.all(all);
}
