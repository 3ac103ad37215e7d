/** What is compared with what: the kinds of tests that are more than the plain ones of rules, as far as they compare. */

export type Relation = 'gt' | 'ge' | 'lt' | 'le' | 'eq' | 'ne';

/**
 * RFC 5228 section 2.7.1, with `value` and `count` of RFC 5231, `regex` of draft-ietf-sieve-regex, and `list` of RFC 6134, whose
 * keys are names of lists that the server keeps.
 */
export type Comparison =
  | {
      readonly match: 'is' | 'contains' | 'matches' | 'regex' | 'list';
      readonly comparator: string;
      readonly keys: readonly string[];
    }
  | Related<'value'>
  | Related<'count'>;

interface Related<Match> {
  readonly match: Match;
  /** In which the value, or the number of values, stands to any of the keys. */
  readonly relation: Relation;
  readonly comparator: string;
  readonly keys: readonly string[];
}

/** One of several fields of a name, counted from 1 (RFC 5260 section 6). */
export interface Occurrence {
  readonly number: number;
  readonly fromEnd: boolean;
}

/** Whose fields are meant: of the message, or of the part at hand, or of all parts below that too (RFC 5703 section 4). */
export type PartFields = 'part' | 'all parts';

interface Fields {
  readonly headers: readonly string[];
  /** All of them where this is left out. */
  readonly occurrence?: Occurrence;
  /** The fields of the message where this is left out. */
  readonly within?: PartFields;
}

/** What of the value of a MIME field is taken (RFC 5703 section 4.2). */
export type MimeOption =
  | { readonly take: 'type' | 'subtype' | 'contenttype' }
  | { readonly take: 'param'; readonly names: readonly string[] };

/** `user` and `detail` by RFC 5233. */
export type FurtherAddressPart = 'all' | 'localpart' | 'domain' | 'user' | 'detail';

/** Null is the zone of the server, `original` that in which the date is written; else an offset such as `+0100`. */
export type Zone = string | null;

/** What is looked at. */
export type Subject =
  | ({ readonly of: 'header'; readonly option?: MimeOption } & Fields)
  | ({ readonly of: 'address'; readonly part: FurtherAddressPart } & Fields)
  /** Beside `from` and `to`, the parts of RFC 6009. */
  | { readonly of: 'envelope'; readonly parts: readonly string[]; readonly part: FurtherAddressPart }
  /** RFC 5173: the readable text, all octets, or the parts of some media types. */
  | { readonly of: 'body'; readonly transform: 'text' | 'raw' }
  | { readonly of: 'body parts'; readonly types: readonly string[] }
  /** RFC 5260 sections 4 and 5. */
  | {
      readonly of: 'date';
      readonly header: string;
      readonly part: string;
      readonly zone: Zone;
      readonly occurrence?: Occurrence;
    }
  | { readonly of: 'currentdate'; readonly part: string; readonly zone: Zone }
  /** RFC 5183. */
  | { readonly of: 'environment'; readonly name: string }
  /** RFC 5229 section 5: texts without references to variables, since others are no property of the message. */
  | { readonly of: 'string'; readonly texts: readonly string[] }
  /** RFC 5490 sections 3.3 and 4.2. */
  | { readonly of: 'metadata'; readonly folder: string; readonly annotation: string }
  | { readonly of: 'servermetadata'; readonly annotation: string }
  /** RFC 5235: from 0 to 10, or to 100 where it is in percent. */
  | { readonly of: 'spamtest'; readonly percent: boolean }
  | { readonly of: 'virustest' }
  /** RFC 5435 section 5. */
  | { readonly of: 'notify_method_capability'; readonly uri: string; readonly capability: string };

export type SubjectKind = Subject['of'];

export interface ComparedTest {
  readonly test: 'compared';
  readonly subject: Subject;
  readonly by: Comparison;
}

/** Tests that compare nothing, but ask for what is there or what a server can do. */
export type QueryTest =
  /** `exists` for fields of parts (RFC 5703 section 4.4). */
  | { readonly test: 'exists-in-parts'; readonly headers: readonly string[]; readonly within: PartFields }
  /** RFC 5490. */
  | { readonly test: 'mailboxexists'; readonly folders: readonly string[] }
  | { readonly test: 'metadataexists'; readonly folder: string; readonly annotations: readonly string[] }
  | { readonly test: 'servermetadataexists'; readonly annotations: readonly string[] }
  /** RFC 8579: any folder where none is named. */
  | { readonly test: 'specialuse_exists'; readonly folder: string | null; readonly uses: readonly string[] }
  /** RFC 5435 section 4. */
  | { readonly test: 'valid_notify_method'; readonly uris: readonly string[] }
  /** RFC 6134 section 2.6. */
  | { readonly test: 'valid_ext_list'; readonly names: readonly string[] }
  /** RFC 5463. */
  | { readonly test: 'ihave'; readonly capabilities: readonly string[] }
  /** RFC 6558. */
  | { readonly test: 'convert'; readonly from: string; readonly to: string; readonly parameters: readonly string[] }
  /** RFC 7352: a message of the same identity has come before, within some time. */
  | {
      readonly test: 'duplicate';
      readonly handle: string | null;
      /** Null: the Message-ID. */
      readonly identity: { readonly by: 'header' | 'uniqueid'; readonly of: string } | null;
      readonly seconds: number | null;
      /** Whether the time begins anew with each message. */
      readonly last: boolean;
    };

export type FurtherTest = ComparedTest | QueryTest;
