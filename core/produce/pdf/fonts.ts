import { Coverage } from './coverage';
import { withoutTable } from './font-tables';

/** A font of the record: its family, and the file that holds it. */
export interface FontFile {
  family: string;
  /** Path from the root of the repository, which holds the fonts that records are set in. */
  file: string;
  /** Only where a text has such characters; always where nothing is said. */
  when?: RegExp;
}

const from = (name: string, weight: string, file: string): string =>
  `fonts/${name}/${file}_${weight}.ttf`;

const SERIF = 'Source Serif 4';
export const SANS = 'Noto Sans';
export const MONO = 'IBM Plex Mono';
export const EMOJI = 'Noto Color Emoji';

/** Scripts with a font of their own, where its family is called after them. */
const SCRIPTS = [
  'Hebrew',
  'Devanagari',
  'Thai',
  'Bengali',
  'Tamil',
  'Telugu',
  'Gujarati',
  'Gurmukhi',
  'Kannada',
  'Malayalam',
  'Sinhala',
  'Oriya',
  'Armenian',
  'Georgian',
  'Ethiopic',
  'Khmer',
  'Lao',
  'Myanmar',
  'Cherokee',
  'Thaana'
] as const;

function ofScript(script: string): FontFile {
  return {
    family: `Noto Sans ${script}`,
    file: from(`noto-sans-${script.toLowerCase()}`, '400Regular', `NotoSans${script}`),
    when: new RegExp(`\\p{Script=${script}}`, 'u')
  };
}

/** Signs that are no emoji: arrows, mathematics, boxes, shapes. */
const SIGNS = /(?!\p{Emoji_Presentation})[\u2100-\u2bff\u{1d400}-\u{1d7ff}\u{1f100}-\u{1f1e5}]/u;

/** Fonts in the order in which a character is looked for. */
const FONTS: readonly FontFile[] = [
  { family: SERIF, file: from('source-serif-4', '400Regular', 'SourceSerif4') },
  { family: SERIF, file: from('source-serif-4', '600SemiBold', 'SourceSerif4') },
  { family: SANS, file: from('noto-sans', '400Regular', 'NotoSans') },
  { family: SANS, file: from('noto-sans', '600SemiBold', 'NotoSans') },
  { family: MONO, file: from('ibm-plex-mono', '400Regular', 'IBMPlexMono') },
  {
    family: 'Vazirmatn',
    file: from('vazirmatn', '400Regular', 'Vazirmatn'),
    when: /\p{Script=Arabic}/u
  },
  ...SCRIPTS.map(ofScript),
  {
    family: 'Noto Sans JP',
    file: from('noto-sans-jp', '400Regular', 'NotoSansJP'),
    when: /[\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Han}\u3000-\u303f\uff00-\uffef]/u
  },
  {
    family: 'Noto Sans SC',
    file: from('noto-sans-sc', '400Regular', 'NotoSansSC'),
    when: /\p{Script=Han}/u
  },
  {
    family: 'Noto Sans KR',
    file: from('noto-sans-kr', '400Regular', 'NotoSansKR'),
    when: /\p{Script=Hangul}/u
  },
  {
    family: 'Noto Serif Tibetan',
    file: from('noto-serif-tibetan', '400Regular', 'NotoSerifTibetan'),
    when: /\p{Script=Tibetan}/u
  },
  {
    family: 'Noto Sans Symbols',
    file: from('noto-sans-symbols', '400Regular', 'NotoSansSymbols'),
    when: SIGNS
  },
  {
    family: 'Noto Sans Symbols 2',
    file: from('noto-sans-symbols-2', '400Regular', 'NotoSansSymbols2'),
    when: SIGNS
  },
  {
    family: 'Noto Sans Math',
    file: from('noto-sans-math', '400Regular', 'NotoSansMath'),
    when: SIGNS
  },
  {
    family: EMOJI,
    file: from('noto-color-emoji', '400Regular', 'NotoColorEmoji'),
    when: /\p{Extended_Pictographic}|\p{Regional_Indicator}|\u20e3/u
  }
];

/** Gives the bytes of a font by its file. */
export type OpenFont = (file: string) => Promise<Uint8Array>;

/** The fonts that a text needs. */
export interface FontSet {
  /** Families in the order in which a character is looked for, without the emoji. */
  families: string[];
  files: Uint8Array[];
  /** The same for the same fonts. */
  key: string;
  text: (code: number) => boolean;
  emoji: (code: number) => boolean;
}

const coverages = new Map<string, Coverage>();

/** Loads the fonts that a text needs. Where Chinese characters stand without Japanese letters, the Chinese font goes before. */
export async function fontsFor(text: string, open: OpenFont): Promise<FontSet> {
  const needed = FONTS.filter(({ when }) => !when || when.test(text));
  const isChinese = !/[\p{Script=Hiragana}\p{Script=Katakana}]/u.test(text);
  if (isChinese) needed.sort((a, b) => rank(a) - rank(b));
  const files: Uint8Array[] = [];
  const known: { family: string; coverage: Coverage }[] = [];
  for (const { file, family } of needed) {
    // What the engine draws emoji from is the other table; this one is four fifths of the font.
    const bytes = withoutTable(await open(file), 'SVG ');
    files.push(bytes);
    const coverage = coverages.get(file) ?? new Coverage(bytes);
    coverages.set(file, coverage);
    known.push({ family, coverage });
  }
  const emoji = known.filter(({ family }) => family === EMOJI);
  const others = known.filter(({ family }) => family !== EMOJI && family !== MONO);
  return {
    families: [...new Set(others.map(({ family }) => family))],
    files,
    key: needed.map(({ file }) => file).join(' '),
    text: (code) => others.some(({ coverage }) => coverage.has(code)),
    emoji: (code) => emoji.some(({ coverage }) => coverage.has(code))
  };
}

function rank({ family }: FontFile): number {
  return family === 'Noto Sans JP' ? 1 : 0;
}
