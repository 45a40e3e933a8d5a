import isSafe from 'safe-regex2';
import { z } from 'zod';
import { TEXT_FORMS } from './packed-text';
import { CLOCKS_BY_NAME, type Expression, type ReadingProfile } from './profile';

/** Reading profiles as they cross a boundary: saved, exported, imported. */
const texts = z.array(z.string());
const words = z.record(z.string(), z.string());

const lookup = z.object({
  table: z.string(),
  match: z.string(),
  get from() {
    return expression;
  },
  where: z.object({ column: z.string(), is: texts.optional(), not: texts.optional() }).optional(),
  order: z.string().optional()
});

const rowTest = z.object({
  get value() {
    return expression;
  },
  is: texts.optional(),
  not: texts.optional(),
  present: z.boolean().optional()
});

const expression: z.ZodType<Expression> = z.lazy(() =>
  z.union([
    z.strictObject({ column: z.string() }),
    z.strictObject({ constant: z.string() }),
    z.strictObject({ lookup, take: expression }),
    z.strictObject({ first: z.array(expression) }),
    z.strictObject({ each: z.array(expression) }),
    z.strictObject({ words: expression }),
    z.strictObject({ listed: expression }),
    z.strictObject({ sorted: expression }),
    z.strictObject({ joined: expression, by: z.string() }),
    z.strictObject({ typedStream: expression }),
    z.strictObject({ plainText: expression }),
    z.strictObject({ textOf: expression, form: z.enum(TEXT_FORMS) }),
    z.strictObject({ tagged: expression, path: z.array(z.number().int().positive()).max(16) }),
    z.strictObject({ json: expression, path: texts }),
    z.strictObject({ match: expression, pattern: regex }),
    z.strictObject({ without: expression, pattern: regex }),
    z.strictObject({ jid: expression }),
    z.strictObject({ tableHash: z.literal(true) }),
    z.strictObject({ map: expression, values: words }),
    z.strictObject({ when: rowTest, then: expression })
  ])
) as z.ZodType<Expression>;

const regex = z
  .string()
  .max(500)
  .refine(isRegex, 'is not a regular expression')
  .refine(
    (pattern) => isSafe(pattern) && endsSoon(pattern),
    'is a regular expression that could run for ever'
  );

/** Repetitions without a limit that one pattern may have: each multiplies the time by the length of the text. */
const MOST_ENDLESS = 3;

/**
 * Whether a pattern ends soon on every text: nothing that is repeated holds a
 * repetition or a choice, and little is repeated without a limit. Trying each
 * way to share a text out among them would else take longer than anybody waits.
 */
function endsSoon(pattern: string): boolean {
  const bare = pattern.replace(/\\[^]/g, '.').replace(/\[[^\]]*\]/g, '.');
  if (/\)(?:[*+]|\{\d+,)/.test(bare) && !groupsAreSimple(bare)) return false;
  return (bare.match(/[*+]|\{\d+,\}/g) ?? []).length <= MOST_ENDLESS;
}

/** Whether no group that is repeated holds a repetition, a choice or something that may be missing. */
function groupsAreSimple(bare: string): boolean {
  const starts: number[] = [];
  for (let at = 0; at < bare.length; at++) {
    if (bare[at] === '(') starts.push(at);
    if (bare[at] !== ')') continue;
    const inner = bare.slice((starts.pop() ?? 0) + 1, at).replace(/^\?(?:[:=!]|<[=!]?\w*>?)/, '');
    if (/^(?:[*+]|\{\d+,)/.test(bare.slice(at + 1)) && /[*+|?{]/.test(inner)) return false;
  }
  return true;
}

function isRegex(pattern: string): boolean {
  try {
    return new RegExp(pattern, 's') instanceof RegExp;
  } catch (error) {
    if (error instanceof SyntaxError) return false;
    throw error;
  }
}

const time = z.object({
  value: expression,
  clock: z.enum(CLOCKS_BY_NAME),
  fixed: z.boolean().optional()
});
const directions = z.enum(['incoming', 'outgoing', 'system', 'unknown']);
const calls = z.enum(['incoming', 'outgoing', 'missed', 'unknown']);
const own = { own: texts.optional(), ownTable: z.string().optional() };

const attachment = z.object({
  rows: lookup.optional(),
  name: expression,
  path: expression,
  mime: expression.optional(),
  bytes: expression.optional(),
  width: expression.optional(),
  height: expression.optional(),
  seconds: expression.optional(),
  thumbnail: expression.optional(),
  only: z.array(rowTest).optional()
});

const message = z.object({
  table: z.string(),
  many: z.boolean().optional(),
  key: z.string(),
  unique: z.string().optional(),
  only: z.array(rowTest).optional(),
  system: z.array(rowTest).optional(),
  body: expression,
  subject: expression.optional(),
  sentAt: time,
  deliveredAt: time.optional(),
  readAt: time.optional(),
  direction: z.union([
    z.object({ author: expression, ...own }),
    z.object({ value: expression, values: z.record(z.string(), directions), otherwise: directions })
  ]),
  sender: expression,
  thread: z.object({
    key: expression,
    participants: expression,
    peer: expression.optional(),
    title: expression.optional(),
    counted: expression.optional(),
    collect: z.boolean().optional(),
    ...own
  }),
  attachments: z.array(attachment).optional(),
  held: z.object({ since: time, days: z.number() }).optional(),
  replyTo: z.object({ value: expression, names: z.enum(['unique', 'key']) }).optional(),
  reactionOf: z
    .object({ when: rowTest, target: expression, text: expression, removed: rowTest.optional() })
    .optional(),
  reactions: z
    .array(
      z.object({
        rows: lookup,
        text: expression,
        person: expression,
        own: rowTest.optional(),
        at: time.optional()
      })
    )
    .optional(),
  edits: expression.optional(),
  marks: z.array(z.object({ at: time, says: z.string().max(200) })).optional(),
  location: z.object({ lat: expression, lon: expression, label: expression.optional() }).optional(),
  ownerPlaceholders: texts.optional()
});

const columnsByTable = z.record(z.string(), texts);

export const readingProfileSchema: z.ZodType<ReadingProfile> = z.object({
  id: z.string().min(1).max(200),
  title: z.string().min(1).max(200),
  needs: columnsByTable,
  knows: columnsByTable,
  messages: z.array(message),
  calls: z
    .array(
      z.object({
        table: z.string(),
        key: z.string(),
        at: time,
        seconds: expression,
        address: expression,
        name: expression.optional(),
        direction: z.object({
          value: expression,
          values: z.record(z.string(), calls),
          otherwise: calls
        }),
        missed: rowTest.optional()
      })
    )
    .optional(),
  contacts: z
    .array(
      z.object({
        table: z.string(),
        key: z.string(),
        only: z.array(rowTest).optional(),
        name: expression,
        phones: expression,
        emails: expression,
        organisation: expression.optional(),
        note: expression.optional()
      })
    )
    .optional(),
  names: z.array(z.object({ table: z.string(), address: expression, name: expression })).optional(),
  fingerprint: z.string().optional()
}) as unknown as z.ZodType<ReadingProfile>;
