/** Letters that are letters of their own and yet are searched for by their plain likeness. */
const PLAIN: Record<string, string> = {
  ø: 'o',
  ł: 'l',
  đ: 'd',
  ð: 'd',
  þ: 'th',
  æ: 'ae',
  œ: 'oe',
  ß: 'ss',
  ı: 'i'
};

/** Text as it is searched: case, accents and widths do not matter. */
export function foldText(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[øłđðþæœßı]/g, (letter) => PLAIN[letter]!);
}
