import { Random } from '../random';

/** A short exchange: `>` is the owner's, `<` the other's. */
const LINES = [
  '< Did the gasket come?',
  '> Tomorrow, with the mail boat.',
  '< The slip is free from Thursday.',
  '> Then we take Thursday.',
  '< Bring the blue folder, not the red one.',
  '> Both are red by now.',
  '< Tea at three, if the urn works.',
  '> It does not.',
  '< Then coffee.',
  '> The second coat is on.',
  '< Which colour?',
  '> The one that was left.',
  '< Lamp on the pier is out again.',
  '> I told the harbour office. Twice.',
  '< Wind from the north by evening.',
  '> Lines are doubled.',
  '< Who has the long ladder?',
  '> It walked to your shed by itself.'
];

export interface Said {
  at: number;
  own: boolean;
  text: string;
}

/** Everyday lines from a day on, one exchange after the other. */
export function smallTalk(seed: number, from: number, count: number): Said[] {
  const random = new Random(seed);
  let at = from;
  return Array.from({ length: count }, (_, i) => {
    at += random.int(4, 900) * 60_000;
    const line = LINES[(i + seed) % LINES.length]!;
    return { at, own: line.startsWith('>'), text: line.slice(2) };
  });
}
