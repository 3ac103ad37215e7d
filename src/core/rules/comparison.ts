import type { Relation } from '../text/relation';

/** Tests that compare, beyond the plain ones of rules: subjects and comparisons. */

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
  /** The relation of the value, or of the number of values, to any of the keys. */
  readonly relation: Relation;
  readonly comparator: string;
  readonly keys: readonly string[];
}

/** One of several fields of a name, counted from 1 (RFC 5260 section 6). */
export interface Occurrence {
  readonly number: number;
  readonly fromEnd: boolean;
}

/** The fields of the current MIME part, or of it and all parts below (RFC 5703 section 4). */
export type PartFields = 'part' | 'all parts';

interface Fields {
  readonly headers: readonly string[];
  /** All occurrences if absent. */
  readonly occurrence?: Occurrence;
  /** The fields of the message if absent. */
  readonly within?: PartFields;
}

/** The part of a MIME field's value that is compared (RFC 5703 section 4.2). */
export type MimeOption =
  | { readonly take: 'type' | 'subtype' | 'contenttype' }
  | { readonly take: 'param'; readonly names: readonly string[] };

/** `user` and `detail` by RFC 5233. */
export type FurtherAddressPart = 'all' | 'localpart' | 'domain' | 'user' | 'detail';

/** Null is the server's time zone, `original` that of the date itself; else an offset such as `+0100`. */
export type Zone = string | null;

/** The subject of a comparison. */
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

/** Tests that do not compare, but query the message, its folders or the server. */
export type QueryTest =
  /** `exists` for fields of MIME parts (RFC 5703 section 4.4). */
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
      /** Whether the time starts again with each message. */
      readonly last: boolean;
    };

export type FurtherTest = ComparedTest | QueryTest;
