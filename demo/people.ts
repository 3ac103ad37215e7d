import type { Dice } from './random';

/** Who writes to the coordinator of the Hollin Weir Mill Trust, and what. Everything here is invented. */
export interface Correspondent {
  readonly name: string;
  readonly address: string;
  /** How often, relative to the others. */
  readonly weight: number;
  /** The folder of their stored mail. */
  readonly folder: string;
  readonly subjects: readonly string[];
  readonly body: readonly string[];
  readonly fields?: readonly string[];
  /** The recipient; the coordinator if absent. */
  readonly to?: string;
  /** The envelope sender, if it differs from the address. */
  readonly path?: string;
  /** The address that a delivery status notification reports as failed. */
  readonly failed?: string;
  /** Octets of an attachment. */
  readonly attachment?: number;
}

/** Machines and bulk senders: nobody writes to them. */
const NOBODY =
  /^(camera|alerts|orders@shop|noreply|statements|scans|root|newsletter|offers|win|form|mailer-daemon|storms|portal|news)\b/;

export const isPerson = ({ address, fields }: Correspondent): boolean =>
  !NOBODY.test(address) && !fields?.some((field) => field.startsWith('List-Id'));

export const ME = 'coordinator@hollinweir.example';
export const OWN = [ME, 'maren.holt@hollinweir.example'] as const;
const LIST = 'volunteers@lists.hollinweir.example';

export const CORRESPONDENTS: readonly Correspondent[] = [
  {
    name: 'Hollin Weir Camera',
    address: 'camera@cam.hollinweir.example',
    weight: 14,
    folder: 'Weir/Camera',
    subjects: [
      'Motion at the weir',
      'Motion at the weir by night',
      'Camera 2: debris on the screen',
      'Camera restarted',
    ],
    body: ['Movement was seen at camera {n}.', 'A still is kept on the machine for 30 days.'],
  },
  {
    name: 'River Levels',
    address: 'alerts@riverlevels.example',
    weight: 16,
    folder: 'Weir/Levels',
    subjects: [
      'Hollin Weir: {n} cm, steady',
      'Hollin Weir: {n} cm, rising',
      'Hollin Weir: {n} cm, falling',
      'FLOOD WARNING for Hollin Weir: {n} cm',
    ],
    body: ['The gauge at Hollin Weir reads {n} cm.', 'You receive this since you asked for levels of the Hollin.'],
  },
  {
    name: 'Calder Oak Yard',
    address: 'orders@calderoak.example',
    weight: 6,
    folder: 'Suppliers/Oak',
    subjects: [
      'Green oak for the lade gate',
      'Invoice {n} for oak beams',
      'Delivery of oak on Thursday',
      'Oak: price per cube',
    ],
    body: ['The beams are cut to 240 by 240.', 'We can deliver to the upper gate only.'],
  },
  {
    name: 'Tobias Fenn',
    address: 'tobias@calderoak.example',
    weight: 3,
    folder: 'Suppliers/Oak',
    subjects: ['Re: Green oak for the lade gate', 'The wheel shaft', 'urgent: which length of beam?'],
    body: ['Maren, the shaft will want two men and a horse.', 'Tell me the length and I will cut it on Monday.'],
  },
  {
    name: 'Stanhope Lime Works',
    address: 'sales@stanhopelime.example',
    weight: 5,
    folder: 'Suppliers/Lime',
    subjects: ['Hot lime, {n} bags', 'Invoice {n}', 'Lime putty is ready', 'Re: mortar for the wheel pit'],
    body: ['Keep the putty under water.', 'The kiln rests in February.'],
  },
  {
    name: 'Fell Forge',
    address: 'anvil@fellforge.example',
    weight: 2,
    folder: 'INBOX',
    subjects: [
      'Rotation of the wheel',
      'Quote for the gudgeon pins',
      'Re: quote: gudgeon and bands',
      'Photos of the bands',
    ],
    body: ['The bands can be shrunk on at the mill.', 'The pins are of wrought iron.'],
  },
  {
    name: "Volunteers' list",
    address: 'pat.lorne@fellmail.example',
    weight: 20,
    folder: 'Volunteers',
    to: LIST,
    path: 'volunteers-bounces@lists.hollinweir.example',
    fields: [
      'List-Id: Volunteers of the mill <volunteers.hollinweir.example>',
      'List-Post: <mailto:volunteers@lists.hollinweir.example>',
    ],
    subjects: [
      '[volunteers] Saturday at the lade',
      '[volunteers] Rota for May',
      '[volunteers] Photos of the open day',
      '[volunteers] Who has the key of the sluice?',
      '[volunteers] Tea urn',
    ],
    body: ['Bring gloves and a flask.', 'The tools are in the cart shed.', 'Thank you all for Saturday.'],
  },
  {
    name: 'Committee',
    address: 'chair@hollinweir.example',
    weight: 7,
    folder: 'Committee',
    to: 'committee@lists.hollinweir.example',
    fields: ['List-Id: Committee <committee.hollinweir.example>'],
    subjects: [
      '[committee] Minutes of {n} March',
      '[committee] Agenda',
      '[committee] Rota of the chair',
      '[committee] urgent: the sluice',
    ],
    body: ['The minutes are attached to the note of the chair.', 'Apologies from the treasurer.'],
  },
  {
    name: 'Dale Council Planning',
    address: 'planning@dalecouncil.example',
    weight: 5,
    folder: 'Planning',
    subjects: [
      'Lease of the lade bank',
      'Application {n}: received',
      'Application {n}: decision',
      'Listed building: request for drawings',
      'Site visit',
    ],
    body: ['Please quote the number of the application.', 'The officer will visit the mill.'],
  },
  {
    name: 'Conservation officer',
    address: 'hallam@consult.dalecouncil.example',
    weight: 2,
    folder: 'Planning',
    subjects: ['Lease: a question', 'Listed building consent for the wheel', 'Re: lime render on the gable'],
    body: ['The render should be lime, not cement.', 'I shall write to the planning office.'],
  },
  {
    name: 'Heritage Fund Grants',
    address: 'grants@heritagefund.example',
    weight: 5,
    folder: 'Grants',
    subjects: [
      'Your grant {n}',
      'Report due for grant {n}',
      'urgent: bank details for grant {n}',
      'Grant {n}: second payment',
    ],
    body: ['The report covers the months of work.', 'Keep the receipts of all oak and lime.'],
  },
  {
    name: 'Office of the grants',
    address: 'reporting@heritagefund.example',
    weight: 2,
    folder: 'Grants/Reports',
    subjects: ['Report due in May', 'Report received, thank you'],
    body: ['Your report is due.', 'Late reports delay the payment.'],
  },
  {
    name: 'Marianne Beck',
    address: 'm.beck@northfell-school.example',
    weight: 4,
    folder: 'Schools',
    subjects: ['School visit in June', 'Booking for class 4', 'Booking: {n} children', 'Thank you from class 4'],
    body: ['We are {n} children and three teachers.', 'Is there a place to eat when it rains?'],
  },
  {
    name: 'Office of Saint Bee',
    address: 'office@stbees-school.example',
    weight: 3,
    folder: 'Schools/Saint Bee',
    subjects: ['Booking of the mill', 'Risk assessment for the school visit', 'Coach at ten'],
    body: ['The coach holds {n} seats.', 'Please send the risk assessment.'],
  },
  {
    name: 'Mill shop',
    address: 'orders@shop.hollinweir.example',
    weight: 12,
    folder: 'Shop/Orders',
    subjects: ['Order #{n}: two bags of flour', 'Order #{n}: postcards', 'Refund for order #{n}'],
    body: ['Order {n} is paid and waits to be packed.', 'Flour of the mill, 1.5 kg, two bags.'],
  },
  {
    name: 'Paybridge',
    address: 'noreply@paybridge.example',
    weight: 8,
    folder: 'Shop/Payments',
    path: 'bounce-{n}@mail.paybridge.example',
    subjects: ['Payment for order #{n}', 'Payout {n}', 'Refund sent'],
    body: ['A card payment has arrived.', 'The payout takes two days.'],
    fields: ['List-Unsubscribe: <https://paybridge.example/settings>'],
  },
  {
    name: 'Ines Avery',
    address: 'ines@ledgerlane.example',
    weight: 5,
    folder: 'Accounts',
    subjects: ['Accounts for the quarter', 'Invoice of the forge?', 'Re: petty cash', 'private: the salary'],
    body: ['The petty cash is short by 4.20.', 'Please sign the attached.'],
    attachment: 340_000,
  },
  {
    name: 'Fell Bank',
    address: 'statements@fellbank.example',
    weight: 3,
    folder: 'Accounts/Bank',
    subjects: ['Your statement is ready', 'A payment was returned'],
    body: ['We never ask for your password.', 'The statement can be read for 90 days.'],
  },
  {
    name: 'Archive Bureau',
    address: 'scans@archivebureau.example',
    weight: 4,
    folder: 'Archive/Scans',
    subjects: ['Scan {n}: the mill lease of 1742', 'Scan {n}: plan of the lade', 'Photographs, box {n}'],
    body: ['The plan was scanned at 600 dots.', 'The lease is torn at the fold.'],
    attachment: 120_000,
  },
  {
    name: 'Fell Insurance',
    address: 'claims@fellinsure.example',
    weight: 2,
    folder: 'Accounts/Claims',
    subjects: ['Claim {n}: flood of the wheel pit', 'Renewal of the cover'],
    body: ['The cover ends in March.', 'Please send pictures of the damage.'],
  },
  {
    name: 'Office machine',
    address: 'root@office.hollinweir.example',
    weight: 8,
    folder: 'Machines',
    subjects: ['Backup finished', 'Backup finished with {n} warnings', 'Backup FAILED', 'Disk is {n}% full'],
    body: ['{n} files were copied.', 'This mail was written by a machine.'],
  },
  {
    name: 'Mills and Rivers',
    address: 'newsletter@millsandrivers.example',
    weight: 4,
    folder: 'Reading',
    subjects: ['Mills and Rivers, letter {n}', 'Prize draw for readers', 'A wheel in the hills'],
    body: ['In this letter: a wheel of larch.', 'To unsubscribe, follow the address in the header.'],
    fields: ['List-Unsubscribe: <mailto:leave@millsandrivers.example>'],
  },
  {
    name: 'Tool Barn',
    address: 'offers@toolbarn.example',
    weight: 5,
    folder: 'Reading/Bulk',
    subjects: ['Chisels at half price', 'Last days: planes and saws', 'Your order of chisels has left'],
    body: ['Only until Sunday.', 'To unsubscribe, press nothing and wait.'],
    fields: ['List-Unsubscribe: <https://toolbarn.example/leave>'],
  },
  {
    name: 'Lucky Draw',
    address: 'win@luckydraw.test',
    weight: 3,
    folder: 'Reading/Bulk',
    subjects: ['You have won a prize', 'Lottery: claim number {n}'],
    body: ['Send us your bank details.', 'This is no joke.'],
    fields: ['List-Unsubscribe: <https://luckydraw.test/u>', 'X-Spam-Score: 12.4', 'X-Spam-Status: Yes, score=12.4'],
  },
  {
    name: 'Ann Castle',
    address: 'ann.castle@fellmail.example',
    weight: 4,
    folder: 'People/Ann',
    subjects: ['Raffle for the wheel', 'Supper on Friday', 'Photos of the kingfisher', 'Re: the swallows in the loft'],
    body: ['The swallows are back.', 'Shall I bring the cake?'],
  },
  {
    name: 'Joanna Planner',
    address: 'joanna@dalewalks.example',
    weight: 2,
    folder: 'INBOX',
    subjects: ['Newsletter of the walks', 'A walk past the mill', 'Can we use your yard?'],
    body: ['Forty walkers, two dogs.', 'We would close the gates.'],
  },
  {
    name: 'Société des moulins',
    address: 'secretariat@moulins.example',
    weight: 2,
    folder: 'Abroad',
    subjects: ['Journée des moulins', 'Facture {n}', 'urgence: la roue de Hérépian'],
    body: ['Chère Maren, la roue tourne.', 'Nous viendrons à douze.'],
  },
  {
    name: 'Jörg Müller',
    address: 'joerg@muehlen.example',
    weight: 2,
    folder: 'INBOX',
    subjects: ['A prize for the best mill', 'Grüße aus der Mühle', 'Rechnung {n}', 'Abwesend bis Montag'],
    body: ['Das Mühlrad läuft rund.', 'Viele Grüße aus dem Tal.'],
  },
  {
    name: '水車の会',
    address: 'info@suisha.example',
    weight: 1,
    folder: 'Abroad/Other',
    subjects: ['水車の写真', '春の水車祭り'],
    body: ['水車は回っています。', 'よろしくお願いします。'],
  },
  {
    name: 'Ольга',
    address: 'olga@melnitsa.example',
    weight: 1,
    folder: 'Abroad/Other',
    subjects: ['Старая мельница', 'О мельнице на реке'],
    body: ['Колесо снова крутится.', 'Спасибо за письмо.'],
  },
  {
    name: 'Website of the trust',
    address: 'form@web.hollinweir.example',
    weight: 5,
    folder: 'INBOX',
    fields: ['X-Form: contact'],
    subjects: ['Question from the website', 'Opening hours?', 'School visit from the website'],
    body: ['When is the mill open?', 'May we bring a dog?'],
  },
  {
    name: 'Mail system',
    address: 'mailer-daemon@hollinweir.example',
    weight: 2,
    folder: 'Replies/Bounces',
    path: '',
    subjects: ['Undelivered mail', 'Automatic reply: away until Monday'],
    body: ['The recipient is not known.', 'I am away until Monday.'],
    failed: 'wardens@millwardens.example',
  },
  {
    name: 'Ruth Okafor',
    address: 'ruth@okafor.example',
    weight: 4,
    folder: 'INBOX',
    to: 'board@hollinweir.example',
    subjects: ['The trust deed', 'private: the chair', 'Urgent: signatures', ''],
    body: ['I have read the deed twice.', 'Please keep this among us.'],
  },
  {
    name: 'Stanhope Kiln',
    address: 'kiln@stanhopelime.example',
    weight: 2,
    folder: 'Suppliers/Lime',
    subjects: ['The kiln is lit', 'Lime for the wheel pit, {n} bags'],
    body: ['We burn until Friday.', 'The lime is hot; come with the cart.'],
  },
  {
    name: 'Stanhope Accounts',
    address: 'accounts@stanhopelime.example',
    weight: 1,
    folder: 'INBOX',
    subjects: ['Statement for lime', 'Your account with the lime works'],
    body: ['There is {n} to pay.', 'Please tell us your new address.'],
  },
  {
    name: 'Grants portal',
    address: 'portal@apply.heritagefund.example',
    weight: 2,
    folder: 'INBOX',
    subjects: ['Your application {n} was received', 'A question on application {n}'],
    body: ['Sign in to answer.', 'The panel meets in March.'],
  },
  {
    name: 'Museums of the dale',
    address: 'news@museums.example',
    weight: 2,
    folder: 'Reading/Bulk',
    fields: ['List-Unsubscribe: <mailto:leave@museums.example>'],
    subjects: ['What is on in May', 'Talks on mills and millers'],
    body: ['The tithe barn is open again.', 'Bring your own lantern.'],
  },
  {
    name: 'Fell Oak',
    address: 'rob@felloak.example',
    weight: 2,
    folder: 'Suppliers/Oak',
    subjects: ['Two logs for the shaft', 'Re: the price of quartered oak'],
    body: ['They are three feet through.', 'I can saw them on the Saturday.'],
  },
  {
    name: 'Weather of the dale',
    address: 'storms@weather.example',
    weight: 3,
    folder: 'Weir/Levels',
    subjects: ['Storm warning for the dale', 'Storm of Tuesday: over'],
    body: ['Wind from the west, force {n}.', 'Keep the sluices open.'],
  },
];

/** The sender of one message of a list: one of its members. */
const MEMBERS = [
  ['Pat Lorne', 'pat.lorne@fellmail.example'],
  ['Hannah Price', 'hannah.price@dale.example'],
  ['Søren Kvist', 'soren@kvist.example'],
  ['Ann Castle', 'ann.castle@fellmail.example'],
  ['Στέλιος Ν.', 'stelios@nero.example'],
] as const;

export function senderOf(correspondent: Correspondent, dice: Dice): { name: string; address: string } {
  if (!correspondent.fields?.some((field) => field.startsWith('List-Id'))) return correspondent;
  const [name, address] = dice.pick(MEMBERS);
  return { name, address };
}
