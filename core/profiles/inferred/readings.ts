import type { ColumnFacts } from './column';
import type { Field } from './fields';
import type { SampledTable } from './sample';

/** What a table holds that is no conversation, as its columns and values show. */
export interface OtherReading {
  what: string;
  reason: string;
  /** Nothing but names speaks for it, so that what plainly is a talk outweighs it. */
  onlyNames: boolean;
}

/** A column by its name and by how much of it is filled with something. */
type Test = (column: ColumnFacts) => boolean;

const named =
  (pattern: RegExp, share = 0): Test =>
  (column) =>
    pattern.test(plain(column.name)) && meaning(column) >= share;

/** Words of a name, parted by underscores. */
function plain(name: string): string {
  return name
    .replace(/^Z(?=[A-Z])/, '')
    .replace(/([a-z\d])([A-Z])/g, '$1_$2')
    .toLowerCase();
}

/** Share of the rows in which a column says something. */
function meaning({ rows, filled, frequent }: ColumnFacts): number {
  const nothing = (frequent.get('0') ?? 0) + (frequent.get('-1') ?? 0);
  return rows === 0 ? 0 : (filled - nothing) / rows;
}

const mostly = (pattern: RegExp): Test => {
  return ({ texts, frequent, rows }) => {
    if (texts < rows * 0.7) return false;
    let fitting = 0;
    let all = 0;
    for (const [text, count] of frequent) {
      all += count;
      if (pattern.test(text)) fitting += count;
    }
    return all > 0 && fitting >= all * 0.8;
  };
};

const WEB_ADDRESS = mostly(/^(?:https?|ftp|about|chrome|file):/i);
const FILE_PATH = mostly(
  /^(?:\/|content:|file:|[a-z]:\\|~\/)|[/\\][^/\\]+\.[a-z]\w{1,4}$|^[^\s/\\]+\.[a-z]\w{1,4}$/i
);
const MAIL_NAMES = mostly(/<[^<>@\s]+@[^<>@\s]+>|^[^<>@\s]+@[^<>@\s]+(,|$)/);

/** Words of a name as a whole. */
const word = (words: string): RegExp => new RegExp(`(^|_)(${words})(_|$)`);

interface Kind {
  what: string;
  /** Each must hold for a column of its own. */
  all: Test[];
  /** Also where a column beside them reads like what people write to each other. */
  firm: boolean;
}

const LOG_OF_AN_APP = 'a log of an app';

const SOMEBODY = /(number|address|phone|handle|peer|contact|caller|callee|remote|jid|uri|name)/;

const KINDS: Kind[] = [
  {
    what: 'calls',
    firm: true,
    all: [
      named(word('duration|dur|talk_time|call_length|call_time|call_secs|secs?|seconds'), 0.25),
      named(SOMEBODY, 0.5),
      named(/(date|time|start|stamp|when|at$)/, 0.5)
    ]
  },
  {
    what: 'calls',
    firm: true,
    all: [
      named(word('call_?type|missed|answered|hangup|call_?status|call_?direction|is_?missed')),
      named(SOMEBODY, 0.5)
    ]
  },
  {
    what: 'a calendar',
    firm: false,
    all: [
      named(/(dtstart|start|begin)/, 0.8),
      named(/(dtend|end|duration)/, 0.6),
      named(/(title|summary|subject|name|description)/, 0.5)
    ]
  },
  {
    what: 'tasks',
    firm: false,
    all: [named(/(due|remind|alarm|complet)/, 0.3), named(/(title|summary|task|subject|name)/, 0.5)]
  },
  {
    what: 'pages that were visited',
    firm: true,
    all: [
      WEB_ADDRESS,
      named(
        /(title|visit|hits?|count|bookmark|favicon|host|parent|folder|position|access|create|added|date|time)/
      )
    ]
  },
  {
    what: 'music',
    firm: true,
    all: [
      named(word('artist|album|genre|track'), 0.4),
      named(/(title|name|path|uri|data|duration)/, 0.4)
    ]
  },
  {
    what: 'an index of media',
    firm: true,
    all: [
      FILE_PATH,
      named(
        /(size|width|height|mime|duration|bucket|date_?taken|orientation|latitude|_data|modified|download|bytes)/,
        0.2
      )
    ]
  },
  {
    what: 'mail',
    firm: true,
    all: [
      named(/subject/, 0.6),
      named(
        /(snippet|preview|from|sender|to(_|$)|recipients?|reply_?to|mailbox|label|folder)/,
        0.3
      ),
      MAIL_NAMES
    ]
  },
  { what: 'mail', firm: true, all: [named(/subject/, 0.6), named(/(snippet|preview)/, 0.5)] },
  {
    what: 'settings',
    firm: true,
    all: [
      named(/^(key|name|setting|pref|property|option)$/, 0.9),
      named(/^(value|val|setting|data|string_value)$/, 0.3)
    ]
  },
  {
    what: LOG_OF_AN_APP,
    firm: true,
    all: [
      named(/^(level|log_?level|severity|loglevel)$/),
      named(
        word('tag|module|component|logger|process|pid|tid|line|file|category|source|subsystem'),
        0.3
      )
    ]
  },
  { what: LOG_OF_AN_APP, firm: true, all: [named(/^priority$/), named(/^(tag|logger)$/, 0.5)] },
  {
    what: 'contacts',
    firm: false,
    all: [
      named(
        /(given_?name|first_?name|family_?name|last_?name|organi[sz]ation|company|job_?title|raw_contact_id|lookup_?key|times_contacted|birthday)/,
        0.3
      ),
      named(
        /(name|phone|number|mail|organi[sz]ation|company|title|note|data\d*|display|starred|photo|last|created|updated)/,
        0.2
      )
    ]
  },
  {
    what: 'places',
    firm: false,
    all: [named(word('lat|latitude'), 0.8), named(word('lon|lng|longitude'), 0.8)]
  },
  {
    what: 'software',
    firm: false,
    all: [
      named(/(package|bundle)(_?name|_?id)?$/, 0.8),
      named(/(version|install|title|label|usage|launch|count|last|first|notification)/, 0.3)
    ]
  },
  {
    what: 'a feed',
    firm: true,
    all: [
      named(word('feed|feed_id|guid|link|url|permalink'), 0.8),
      named(/(title|headline)/, 0.8),
      named(/(summary|description|content|author|published|pub_?date)/, 0.3)
    ]
  },
  {
    what: 'downloads',
    firm: true,
    all: [named(/(download|target_?path|mime|total_?bytes|received_?bytes)/, 0.5), WEB_ADDRESS]
  },
  {
    what: 'searches',
    firm: true,
    all: [named(word('query|search_?term|search_?query|search_?text|search|keywords?'), 0.8)]
  }
];

/** The reading that speaks against messages most plainly; null when none does. */
export function otherReading(root: SampledTable): OtherReading | null {
  const isTalk = root.columns.some(readsLikeTalk);
  for (const { what, all, firm } of KINDS) {
    if (isTalk && !firm) continue;
    const found = all.map((test) => root.columns.find(test));
    if (found.some((column) => column === undefined)) continue;
    // One column cannot bear out two tests that are to support each other.
    if (new Set(found).size < found.length) continue;
    const names = found.map((column) => column!.name).join(', ');
    return {
      what,
      reason: `its columns ${names} are those of ${what}`,
      onlyNames: what === LOG_OF_AN_APP
    };
  }
  return null;
}

/** Names of columns that say what something is called or where it is, not what somebody wrote. */
export function isHeading(name: string): boolean {
  return HEADING.test(plain(name));
}

const HEADING =
  /^(?:(?:\w+_)?(?:titles?|subject|summary|headline|caption|label|organi[sz]ation|company|address|location|notes?|description|display_name|album|artist|first|last|street|city|place|category|tags?|memo|payee|product|bucket\w*))$/;

/** Texts that are sentences in most rows, each its own. */
function readsLikeTalk({ name, wording, filled, rows }: ColumnFacts): boolean {
  if (!wording || filled < rows * 0.6 || isHeading(name)) return false;
  return wording.score >= 0.75 && wording.named < 0.2 && wording.forms > 0.6;
}

/** Least share of texts that follow from another column for them to be its label. */
const FOLLOWS = 0.9;

/**
 * Whether the texts only say again what another column says: the same number
 * always has the same text, as callers have names. What people write differs
 * each time.
 */
export function isLabel(text: Field, fields: readonly Field[]): Field | null {
  for (const field of fields) {
    const { facts, values } = field;
    if (field === text || facts.clock || facts.blobs > 0 || field.hops > 0) continue;
    if (facts.distinct < 3 || facts.distinct > facts.rows * 0.8) continue;
    if (followShare(text.values, values) >= FOLLOWS) return field;
  }
  return null;
}

/** Of the rows whose value stands more than once, the share with the text that is usual for it. */
function followShare(texts: readonly unknown[], values: readonly unknown[]): number {
  const groups = new Map<string, Map<string, number>>();
  values.forEach((value, i) => {
    const text = texts[i];
    if (value === null || text === null || text === '') return;
    const group = groups.get(String(value)) ?? new Map<string, number>();
    groups.set(String(value), group.set(String(text), (group.get(String(text)) ?? 0) + 1));
  });
  let usual = 0;
  let all = 0;
  for (const group of groups.values()) {
    const counts = [...group.values()];
    const total = counts.reduce((sum, count) => sum + count, 0);
    if (total < 2) continue;
    all += total;
    let most = 0;
    for (const count of counts) most = Math.max(most, count);
    usual += most;
  }
  return all < LEAST_REPEATED ? 0 : usual / all;
}

const LEAST_REPEATED = 6;
