import { STAND_IN, StandIn } from '../../standins/managesieve';

declare global {
  /** On `globalThis`, where a reloaded module finds it again. */
  var ysomerisStandIn: StandIn | undefined;
}

export const maybeStandIn = (): StandIn | null => globalThis.ysomerisStandIn ?? null;

/** The requested port of the built-in demo server; null if none is requested. */
export function standInPort(): number | null {
  const port = Number(process.env.YSOMERIS_STANDIN);
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
  const server = new StandIn({ ...STAND_IN, scripts: SCRIPTS });
  globalThis.ysomerisStandIn = server;
  await server.listen(port).catch((error: Error) => {
    globalThis.ysomerisStandIn = undefined;
    console.error(`the built-in demo server cannot listen on port ${port}: ${error.message}`);
  });
}
