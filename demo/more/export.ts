import { media } from '../media';
import { smallTalk } from './talk';

const FROM = Date.UTC(2026, 3, 1, 6);

/** What Ragna's own chat app wrote when she exported the conversation: a text, and the pictures beside it. */
export function textExport(): Record<string, Uint8Array> {
  const lines = [line(FROM - 60_000, null, 'Messages and calls are private to this chat.')];
  for (const { at, own, text } of smallTalk(13, FROM, 48)) {
    lines.push(line(at, own ? 'Eirin Vold' : 'Ragna Solheim', text));
  }
  const end = FROM + 40 * 86_400_000;
  lines.push(
    line(end, 'Eirin Vold', 'I kept a picture of the envelope.\nThe number on it is in his hand.'),
    line(end + 40_000, 'Eirin Vold', 'deposit-slip.jpg (file attached)'),
    line(end + 80_000, 'Ragna Solheim', 'Then nobody can say that it never was.')
  );
  return {
    'Eirin Vold, as exported by Ragna.txt': Buffer.from(lines.join('\n') + '\n'),
    'deposit-slip.jpg': media('slip.jpg')
  };
}

function line(at: number, who: string | null, text: string): string {
  const iso = new Date(at).toISOString();
  const day = `${iso.slice(8, 10)}/${iso.slice(5, 7)}/${iso.slice(0, 4)}`;
  return `${day}, ${iso.slice(11, 16)} - ${who === null ? '' : `${who}: `}${text}`;
}
