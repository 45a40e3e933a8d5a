/** Kinds of files as people say them. */
const KINDS: Record<string, string> = {
  'application/x-sqlite3': 'SQLite database',
  'application/x-sqlite3-wal': 'write-ahead log',
  'application/x-sqlite3-journal': 'rollback journal',
  'application/x-plist': 'property list',
  'application/xml': 'XML document',
  'application/json': 'JSON document',
  'application/pdf': 'PDF document',
  'application/zip': 'ZIP archive',
  'application/gzip': 'gzip file',
  'application/x-tar': 'tar archive',
  'application/x-7z-compressed': 'packed archive',
  'application/vnd.rar': 'packed archive',
  'application/rtf': 'document',
  'application/octet-stream': 'data',
  'video/quicktime': 'video (MOV)',
  'text/vcard': 'contact card',
  'text/x-vcard': 'contact card',
  'text/calendar': 'calendar',
  'text/csv': 'table (CSV)',
  'text/html': 'web page',
  'text/plain': 'text'
};

const FAMILIES: Record<string, string> = {
  image: 'picture',
  video: 'video',
  audio: 'sound',
  font: 'font',
  text: 'text'
};

/** Forms whose short name is better known than the family's. */
const FORM =
  /^(?:x-|vnd\.)?(jpeg|png|gif|webp|heic|heif|avif|bmp|tiff|mp4|3gpp|mpeg|m4a|ogg|opus|amr|wav|flac)\b/;

/** What a file is, in a word or two; `unknown` where its bytes do not show it. */
export function fileKind(mime: string | null): string {
  if (mime === null) return 'unknown';
  const own = KINDS[mime];
  if (own) return own;
  const [family = '', form = ''] = mime.split('/');
  const known = FAMILIES[family];
  const short = FORM.exec(form)?.[1];
  if (known) return short ? `${known} (${short.toUpperCase()})` : known;
  // Names of office kinds hold the word document whatever they are.
  if (/sheet/.test(form)) return 'spreadsheet';
  if (/presentation/.test(form)) return 'presentation';
  if (/document|text|rtf/.test(form)) return 'document';
  if (/zip|compress|archive/.test(form)) return 'packed archive';
  return 'other';
}
