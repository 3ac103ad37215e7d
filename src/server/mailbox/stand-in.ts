import { selfSigned } from '../../standins/certificate';
import { ImapStandIn } from '../../standins/imap';
import { STAND_IN, StandIn } from '../../standins/managesieve';
import { DemoMailbox } from './demo-mailbox';

declare global {
  /** On `globalThis`, where a reloaded module finds it again. */
  var ysomerisStandIn: StandIn | undefined;
}

export const maybeStandIn = (): StandIn | null => globalThis.ysomerisStandIn ?? null;

/** The requested port of the built-in demo server for scripts; null if none is requested. */
export const standInPort = (): number | null => maybePort(process.env.YSOMERIS_STANDIN);

/** The same for its mail. */
export const standInMailPort = (): number | null => maybePort(process.env.YSOMERIS_STANDIN_MAIL);

function maybePort(text: string | undefined): number | null {
  const port = Number(text);
  return Number.isInteger(port) && port > 0 ? port : null;
}

/** The scripts that the demo's coordinator has on their server. */
const SCRIPTS = [
  {
    name: 'since spring',
    text: 'require ["fileinto", "imap4flags"];\r\n# River levels\r\nif address :domain :is "from" "riverlevels.example" {\r\n    fileinto "Weir/Levels";\r\n    stop;\r\n}\r\n# Urgent\r\nif header :contains "subject" "urgent" {\r\n    addflag "\\\\Flagged";\r\n}\r\n',
    active: true,
  },
  {
    name: 'holidays',
    text: 'require "vacation";\r\n# Away\r\nvacation :days 7 "I am away until Monday. The office has a key to the sluice.";\r\n',
    active: false,
  },
  { name: 'nothing', text: 'keep;\r\n', active: false },
];

/** Starts the built-in demo server if it is requested. */
export async function startStandIn(): Promise<void> {
  const port = standInPort();
  if (port === null || globalThis.ysomerisStandIn) return;
  const mailbox = new DemoMailbox();
  const server = new StandIn({ ...STAND_IN, scripts: [...SCRIPTS, ...mailbox.scripts()] });
  globalThis.ysomerisStandIn = server;
  const certificate = await selfSigned('localhost', Date.now());
  await server.listen(port, certificate).catch((error: Error) => {
    globalThis.ysomerisStandIn = undefined;
    complain(port, error);
  });
  const mailPort = standInMailPort();
  if (mailPort === null) return;
  const { user, password, security } = STAND_IN;
  const settings = { user, password, security, folders: () => mailbox.folders(), left: () => mailbox.arrive() };
  await new ImapStandIn(settings).listen(mailPort, certificate).catch((error: Error) => complain(mailPort, error));
}

const complain = (port: number, { message }: Error) =>
  console.error(`the built-in demo server cannot listen on port ${port}: ${message}`);
