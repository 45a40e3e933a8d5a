const ENTITIES: Record<string, string> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;'
};

/**
 * Text as it may stand in markup and in quoted attributes. Control codes and
 * lone surrogates, which pages cannot hold, are shown by their code point;
 * so are marks that turn the writing direction around and could make one
 * text read as another.
 */
export function escapeHtml(text: string): string {
  return text
    .replace(/[&<>"']/g, (char) => ENTITIES[char]!)
    .replace(HIDDEN, (char) => {
      const code = char.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0');
      return `<span class="code">U+${code}</span>`;
    });
}

// Direction overrides and embeddings, controls but tab and line ends, lone surrogates, noncharacters.
const HIDDEN =
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;
