import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { test } from 'node:test';
import { fontsFor } from './fonts';

const open = (file: string): Promise<Uint8Array> =>
  Promise.resolve(new Uint8Array(readFileSync(new URL(`../../../${file}`, import.meta.url))));

/** “Boat” or the like, in scripts that have a font of their own. */
const TEXTS: Record<string, string> = {
  Armenian: 'նավակ',
  Bengali: 'নৌকা',
  Cherokee: 'ᏥᏳ',
  Ethiopic: 'ጀልባ',
  Georgian: 'ნავი',
  Gujarati: 'હોડી',
  Gurmukhi: 'ਕਿਸ਼ਤੀ',
  Kannada: 'ದೋಣಿ',
  Khmer: 'ទូក',
  Lao: 'ເຮືອ',
  Malayalam: 'വള്ളം',
  Myanmar: 'လှေ',
  Oriya: 'ଡଙ୍ଗା',
  Sinhala: 'බෝට්ටුව',
  Tamil: 'படகு',
  Telugu: 'పడవ',
  Thaana: 'ދޯނި',
  Tibetan: 'གྲུ',
  signs: '→ ∑ ♔ ☑ ⛵︎ 𝔘 ⌘'
};

for (const [script, text] of Object.entries(TEXTS))
  test(`${script}: every letter is in a font, and the font is loaded for it alone`, async () => {
    const fonts = await fontsFor(text, open);
    const missing = [...text].filter((char) => {
      const code = char.codePointAt(0)!;
      return !/[\s\ufe0e]/.test(char) && !fonts.text(code) && !fonts.emoji(code);
    });
    assert.deepEqual(missing, []);
    const plain = await fontsFor('boat', open);
    assert.ok(fonts.files.length > plain.files.length);
    assert.notEqual(fonts.key, plain.key);
  });
