import { phrase } from './tokens';

/** The phrases in which people tell rules, by what they mean. */

/** Words that say nothing by themselves. */
export const FILLERS = [
  phrase('and|,|then|please|also|too|but|;|.'),
  phrase('mail|mails|message|messages|email|emails|e-mail|e-mails|post'),
  phrase('everything|anything|whatever|all|any|every|each'),
  phrase('that|which|whose|if|when|where|whenever|who|they'),
  phrase('the|is|are|it|its|them|a|should|must|be|goes|comes|has|have'),
  phrase('sends|send|sent|writes me?'),
  phrase('something|someone|those|these'),
];

/** Mail that no other condition narrows. */
export const ALL_MAIL = [
  phrase('everything|anything|all|any else'),
  phrase('all|any|every other mail|mails|message|messages'),
  phrase('the? rest of? the? mail?'),
  phrase('everything|all|every|any mail|mails|message|messages'),
  phrase('for? every message'),
];

/** A rule without conditions that says one of these is meant for all mail. */
export const FOR_ALL = [phrase('everything|everyone|everybody|all|every|anything|rest')];

export const OTHERWISE = [phrase('otherwise ,?'), phrase('else ,? if?'), phrase('or else ,?')];

/** What follows are exceptions. */
export const EXCEPT = [
  phrase('unless when|if?'),
  phrase('except|excepting|excluding for? when|if|where?'),
  phrase('apart from'),
  phrase('but not if|when|where?'),
];

export const NOT = [
  phrase('is|are|was|were? not'),
  phrase("isn't|aren't|wasn't"),
  phrase('with|offers|offering|has? no|without|never'),
  phrase('not sent?'),
];

export const ANY_OF = [phrase('either'), phrase('any|one of :?'), phrase('at least one of :?')];
export const ALL_OF = [phrase('both'), phrase('all of :?')];

export const FROM = [
  phrase("the? sender's|senders address|name? is|are|equals|=|:"),
  phrase('the? sender|from address? is|are|equals|=|: one? of? either?'),
  phrase('sent|written|coming|comes|come by|from'),
  phrase('from the? sender|sender? :?'),
  phrase('by'),
];
export const FROM_DOMAIN = [
  phrase("the? sender's|senders|sender domain is|are|="),
  phrase('the? domain of the? sender is|='),
];
export const FROM_HAS = [
  phrase("the? sender's|senders name|address contains|includes|has"),
  phrase('the? sender|from field|header|address? contains|includes|has|mentions'),
];
export const TO = [
  phrase('addressed|sent|written|directed to'),
  phrase('to or cc is|are|contains|contain|includes|include|has|have|:?'),
  phrase('the? recipient|recipients is|are|=|: one? of?'),
  phrase('to :?'),
];
export const FROM_OR_TO = [phrase('to or from'), phrase('from or to')];
export const CC_ME = [phrase('cc :? me'), phrase("i'm|i_am in cc"), phrase('with? me in cc')];
export const NO_SUBJECT = [
  phrase('the? subject is? empty|missing|blank'),
  phrase('with? no|empty subject'),
  phrase('without a? subject'),
];
export const DELIVERED = [phrase('delivered to'), phrase('delivered-to is|contains|:?')];
export const CC = [phrase('cc :?'), phrase('copied to'), phrase('the? cc field? is|contains|has|:')];
export const TO_FIELD = [phrase('the? to field is|contains|has')];
export const IN_FIELD = { cc: phrase('is? in the? cc field?'), to: phrase('is? in the? to field') };
export const IN_TO = phrase('in to');

export const ONLY_ME = [
  phrase('addressed|sent? only|just|solely to me'),
  phrase('addressed|sent? to me only|alone'),
  phrase('i am the? only|sole recipient'),
];
export const TO_ME = [
  phrase('addressed|sent? to me'),
  phrase('addressed|sent? to my address|addresses'),
  phrase('i am a recipient'),
];

/** The parts of a message that words are looked for in. */
export const PLACES = {
  both: [
    phrase('the? subject line? or|and|/ in? the? text|body'),
    phrase('the? text|body or|and|/ in? the? subject line?'),
  ],
  subject: [phrase('the? subject line|field?')],
  text: [phrase("the? message's|mail's|message|mail? text|body|content")],
} as const;
export const IN = phrase('is|are? anywhere? in');
export const ANYWHERE = [phrase('anywhere in the? message|mail'), phrase('anywhere')];

export const HAS = {
  contains: [
    phrase('contains|contain|containing|includes|including|mentions|mentioning|has|having|with :?'),
    phrase('that? says|reads'),
  ],
  lacks: [
    phrase('does|do not contain|include|mention|have'),
    phrase("doesn't|don't contain|include|mention|have"),
    phrase('without'),
  ],
  starts: [phrase('starts|begins|starting|beginning with|by')],
  ends: [phrase('ends|ending|finishes with|in')],
  matches: [phrase('matches|matching|is like')],
  isNot: [phrase('is not'), phrase("isn't")],
  is: [phrase('is exactly'), phrase('equals|=='), phrase('is')],
} as const;
export const EXACT_SUBJECT = phrase('with? the? exact subject line?');
export const COLON = phrase(':|=');
export const WITH = phrase('with|having|containing|contains|has|mentions|mentioning that?');
export const KIND_OF_KEY = phrase('the? word|words|phrase|text|string|letters');
export const ABOUT = phrase('about|regarding|concerning');

export const LIST = [
  phrase('sent? from|through|via|on? the? mailing? list :?'),
  phrase('the? mailing? list is|contains|has|:?'),
  phrase('list-id is|contains|has|:?'),
];

export const OVER = [
  phrase('larger|bigger|heavier|greater|more than #'),
  phrase('over|above #'),
  phrase('the? size is? over|above #'),
  phrase('the? size is? larger|bigger|greater|more than #'),
];
export const UNDER = [
  phrase('smaller|less than #'),
  phrase('under|below #'),
  phrase('the? size is? under|below #'),
  phrase('the? size is? smaller|less than #'),
];
export const ATTACHED = [
  phrase('with|has|have|having|includes|contains? an|a|any? attachment|attachments|attached_file|attached_files'),
];
export const UNSUBSCRIBABLE = [
  phrase('with|offers|offering|has|having? a|an? way|link|possibility? to unsubscribe'),
  phrase('with|has|having? an|a? unsubscribe link|button'),
  phrase('can|could be unsubscribed from?'),
];
export const IMPORTANT = [
  phrase('marked|flagged? as? important'),
  phrase('of|with|has? high|highest importance|priority'),
  phrase('the? importance|priority is|: high|highest|important|urgent'),
];
export const MARKED_IMPORTANT = phrase('marked as? important');

export const FIELD = phrase('the? header|field');
export const WITH_FIELD = [phrase('with|has|have|having a|an|the? header|field?')];
export const FIELD_WORD = phrase('header|field');

export const SUBDOMAINS = phrase('and|or|with all|any? of? its|the? subdomains|sub-domains|subdomain|sub-domain');
export const ANYONE_AT = [
  phrase('anyone|anybody|everyone|everybody|someone|people|addresses at|from|of|in @'),
  phrase('anyone|anybody|everyone|everybody|someone|people|addresses at|from|of|in the? domain? %'),
  phrase('anyone|anybody|everyone|everybody|someone @'),
  phrase('the? domain|domains @'),
  phrase('the? domain|domains %'),
];
export const SEPARATORS = [phrase(', or|and'), phrase(',|;'), phrase('or|and')];
export const OR = phrase(', or');
export const AND = phrase(', and');

/** What begins with a capital letter at the start of a line and is no name. */
export const NO_NAME = phrase(
  'to|from|cc|bcc|subject|body|text|with|into|move|file|mark|delete|forward|keep|when|if|unless|and|or|not|copy|flag|put',
);
export const MORE_PEOPLE = { from: phrase('from|by'), to: phrase('to') } as const;

/** Actions. */
export const FOLDER_VERB = phrase(
  'goes|go|going|move|moves|moved|put|puts|file|files|filed|place|placed|store|stored|save|saved|sort|sorted|send it|them|this|that|these?',
);
export const INTO = [
  phrase('in|into|to|under the|my? folder|folders|mailbox'),
  phrase('into|under the|my?'),
  phrase('in|to the|my?'),
];
export const FOLDER_WORD = phrase('folder|mailbox');
export const NOUN = phrase(
  'all|any|every|the? mail|mails|message|messages|email|emails|everything|anything|those|these|it|them that?',
);

export const COPY = [phrase('copy|copies'), phrase('put|place|store|file|goes? a copy'), phrase('a copy of')];
export const DELETE = [
  phrase('delete|discard|bin|trash|drop|remove|erase|deleted|discarded the|this|that? it|them|mail|message?'),
  phrase('throw|throws it|them? away it|them?'),
  phrase('get rid of it|them?'),
  phrase('goes|go|put|move it|them? in|into|to the trash|bin'),
];
export const MARK = phrase('mark|marks|marked|set|flag it|them|the? message|mail? as');
export const MARK_BARE = phrase('mark|marked it|them?');
export const SEEN_WORD = phrase('seen|read');
export const FLAGGED_WORD = phrase('flagged|important');
export const FLAG = phrase('flag it|them?');
export const TAG = [
  phrase('tag|label it|them? as|with?'),
  phrase('add the? keyword|tag|label|flag'),
  phrase('add the? keyword|tag|label|flag :'),
];
export const FORWARD = [phrase('forward|forwarded|forwards it|them|a_copy? to'), phrase('send|sends a copy to')];
export const REDIRECT = [phrase('redirect|redirected it|them? to')];
export const WITHOUT_COPY = phrase('without keeping? a? copy');
export const KEEP = [
  phrase('keep|leave|stays|stay|remains|remain|keeps it|them|mail? a? copy? in the|my? inbox too|also?'),
  phrase('keep|keeps|leave|leaves a copy here|there? too|also?'),
  phrase('keep|keeps it|them? too|also?'),
  phrase('stays|stay where it is'),
];
export const IN_INBOX = phrase('in the|my? inbox too|also?');
export const REPLY = [
  phrase('reply|answer " to?'),
  phrase('auto-reply|autoreply to|with everyone? with? "'),
  phrase('reply|replies|answer|answers|respond|responds with|saying|by|:? "'),
  phrase('send|sends the|a|an? automatic? reply|answer with|saying|:? "'),
];
export const CONTINUE = [
  phrase('continue with? the? next|later|other? rules?'),
  phrase('continues with? the? next|later|other? rules?'),
  phrase('go|keep on|going with? the? next|later|other? rules?'),
  phrase('later|other|further|more rules still? run|act|apply'),
];
export const STOP = [
  phrase('stop|stops processing|here? rules?'),
  phrase('no more|further|later|other rules'),
  phrase("don't|do_not process|run|apply any? more|further|later|other rules"),
  phrase('this is the last rule'),
];
/** What only a program on the user's desk can do. */
export const ON_THE_DESK = [
  phrase('play|plays|playing the|a|an? sound|alarm|chime'),
  phrase('ring|rings the|a? bell'),
  phrase('print|prints it|them? out?'),
  phrase('show|shows|display|displays the|a|an? alert|notification|notice|popup'),
  phrase('run|runs|start|starts|launch|launches|open|opens the|a|an? program|application|app'),
];
/** What the server's own filter judges. */
export const SPAM = [
  phrase('server|filter|provider says|thinks|finds it|they? is|are spam|junk'),
  phrase(
    'is|are? marked|classified|considered|recognised|recognized as? spam|junk by? the|my? server|filter|provider?',
  ),
  phrase('is|are spam|junk'),
];
export const DO_NOTHING = phrase('do nothing with?');

/** Verbs whose object comes before the rest of what they say: “move mail from Ann to Bills”. */
export const SPLIT_VERBS = {
  move: phrase('move|put|file|place|store|sort|save'),
  copy: phrase('copy'),
  mark: phrase('mark'),
  tag: phrase('tag|label'),
  keep: phrase('keep|leave'),
  forward: phrase('forward'),
  redirect: phrase('redirect'),
  reply: phrase('reply to'),
  answer: phrase('answer'),
} as const;

/** A line that begins so is no name. */
export const INTRODUCING = [
  phrase('when|if|whenever|otherwise|unless|except|for_every_message'),
  phrase('subject|from|to|cc|sender|recipient|list|text|body'),
];
