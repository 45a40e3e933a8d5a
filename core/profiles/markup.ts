import { readMarkup } from '../host';

const BREAKS = new Set(['br', 'p', 'div', 'li', 'tr']);
/** Quoted earlier lines come with their own header, which is no wording of this message. */
const HIDDEN = new Set(['legacyquote', 'script', 'style']);
/** In structured bodies only these elements are words for a reader. */
const WORDED = ['title', 'des', 'content', 'description', 'text'];

/**
 * The text that a reader sees of a body kept as markup: entities decoded,
 * tags dropped, line breaks kept. A structured body (an XML document of
 * named fields) gives its title and description. Text without markup is
 * returned as it is.
 */
export function textOfMarkup(markup: string): string {
  if (!/[<&]/.test(markup)) return markup;
  const structured = /^\s*(<\?xml[^>]*>\s*)?<(msg|appmsg|message)\b/i.test(markup);
  return structured ? fieldsOf(markup) : flowOf(markup);
}

function flowOf(markup: string): string {
  let out = '';
  let hidden = 0;
  readMarkup(
    markup,
    {
      open(name) {
        if (HIDDEN.has(name)) hidden++;
        else if (BREAKS.has(name) && out !== '' && !out.endsWith('\n')) out += '\n';
      },
      text(text) {
        if (hidden === 0) out += text;
      },
      close(name) {
        if (HIDDEN.has(name)) hidden--;
      }
    },
    { isXml: false }
  );
  return out;
}

function fieldsOf(markup: string): string {
  const found = new Map<string, string>();
  const path: string[] = [];
  readMarkup(
    markup,
    {
      open: (name) => void path.push(name.toLowerCase()),
      text(text) {
        const name = path[path.length - 1] ?? '';
        if (WORDED.includes(name) && text.trim() !== '')
          found.set(name, (found.get(name) ?? '') + text);
      },
      close: () => void path.pop()
    },
    { isXml: true }
  );
  const texts = WORDED.flatMap((name) => found.get(name) ?? []).map((text) => text.trim());
  return texts.length > 0 ? [...new Set(texts)].join('\n') : markup;
}
