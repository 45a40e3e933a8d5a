import type { CustodyEntry } from '$core/custody';
import { bytes, plural } from '../../format';

type Detail = Record<string, unknown>;

/** The detail of an act of the custody log in words. */
export function detailText({ what, detail }: CustodyEntry): string {
  if (detail === null) return 'withheld';
  const say = SENTENCES[what];
  return (say ? say(detail) : pairs(detail)).filter((part) => part !== '').join(', ');
}

/** How acts are told whose detail reads badly as it stands. */
const SENTENCES: Record<string, (detail: Detail) => string[]> = {
  selected: ({ count, kind, list }) => [
    plural(Number(count), kind === 'lines' ? 'message' : String(kind).replace(/s$/, '')),
    `on the list “${String(list)}”`
  ],
  unselected: ({ count, list }) => [
    plural(Number(count), 'record'),
    `from the list “${String(list)}”`
  ],
  'exhibits changed': ({ list, change, entry: _, entries: __, ...rest }) => [
    `${CHANGES[String(change)] ?? String(change)} on the list “${String(list)}”`,
    ...pairs(rest)
  ],
  'redaction made': redaction,
  'redaction removed': redaction,
  'file joined': ({ sha256 }) => [`SHA-256 ${String(sha256)}`],
  'file join removed': () => [],
  'name given': ({ name }) => [name === '' ? 'a name was removed' : `“${String(name)}”`],
  'people joined': ({ one, other }) => [`${text(one)} is ${text(other)}`],
  'people parted': ({ one, other }) => [`${text(one)} is not ${text(other)}`],
  'examination begun': ({ source, depth, version, kinds, resumed }) => [
    `${text(source)}`,
    `depth ${depthText(depth)}`,
    `version ${text(version)}`,
    `for ${text(kinds)}`,
    resumed === true ? 'resumed' : ''
  ],
  'source added': ({ source, files, bytes: size, sha256 }) => [
    text(source),
    plural(Number(files), 'file'),
    bytes(Number(size)),
    `SHA-256 ${text(sha256)}`
  ],
  'records produced': ({ package: name, bytes: size, lines, threads, redactions, ...rest }) => [
    text(name),
    bytes(Number(size)),
    plural(Number(lines), 'message'),
    plural(Number(threads), 'conversation'),
    plural(Number(redactions), 'redaction'),
    ...pairs(rest)
  ],
  'records produced again': ({ package: name, same, sha256 }) => [
    text(name),
    same === true ? 'the same bytes' : 'different bytes from the first time',
    `SHA-256 ${text(sha256)}`
  ],
  'package checked': ({ package: name, ok, differences }) => [
    text(name),
    ok === true ? 'nothing was changed' : plural(Number(differences), 'difference')
  ]
};

const CHANGES: Record<string, string> = {
  name: 'an exhibit was named',
  context: 'context of an exhibit',
  trim: 'an exhibit was trimmed',
  close: 'an exhibit was closed or opened',
  arrange: 'the exhibits were arranged',
  order: 'their order',
  'add-list': 'a list was begun',
  'use-list': 'list selected',
  'name-list': 'the list was named',
  'drop-list': 'a list was removed',
  undo: 'what was removed was brought back'
};

function redaction({ code, what, line }: Detail): string[] {
  return [
    `code ${text(code)}`,
    text(what),
    line === null || line === undefined ? '' : `line ${text(line)}`
  ];
}

function pairs(detail: Detail): string[] {
  return Object.entries(detail)
    .filter(([key, value]) => value !== null && value !== '' && !HIDDEN.has(key))
    .map(([key, value]) => {
      const said = key === 'depth' ? depthText(value) : text(value);
      // Of nothing found there is nothing to say.
      return said === '' || PLAIN.has(key) ? said : `${words(key)} ${said}`;
    });
}

const DEPTHS: Record<string, string> = {
  indexed: 'existing records',
  freed: 'existing and deleted',
  whole: 'everything, raw data too'
};

/** How deep an examination went, as it is called where it is chosen. */
function depthText(depth: unknown): string {
  return DEPTHS[String(depth)] ?? text(depth);
}

/** Keys that tell the program something, and readers nothing. */
const HIDDEN = new Set(['message', 'person', 'id']);
/** Keys whose value says what it is. */
const PLAIN = new Set(['source', 'name', 'package']);

function text(value: unknown): string {
  if (Array.isArray(value)) return value.map(text).join(', ');
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'number') return value.toLocaleString('en');
  if (typeof value !== 'object' || value === null) return String(value);
  return Object.entries(value)
    .filter(([, item]) => item !== 0 && item !== null)
    .map(([key, item]) => `${words(key)} ${text(item)}`)
    .join(', ');
}

const KEYS: Record<string, string> = {
  sha256: 'SHA-256',
  held: 'recently deleted',
  earlier: 'earlier versions'
};

function words(key: string): string {
  return KEYS[key] ?? key.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase();
}
