import { foldText } from '$core/case/lines';
import type { Line } from '../../service/api/protocol';

/** What of a line may hold a text that is looked for, beside its own words. */
type Searched = Pick<Line, 'body' | 'subject' | 'note' | 'labels' | 'sender'> & {
  attachments: readonly Pick<Line['attachments'][number], 'name'>[];
};

/**
 * Where a hit is that is not in a line's own words: in the name of a file, a
 * note, a label, or in what its people are called. Null where it is in the
 * words themselves.
 */
export function besideOf(line: Searched, query: string): { where: string; text: string } | null {
  const wanted = foldText(query.trim());
  if (wanted === '') return null;
  const holds = (text: string | null): text is string =>
    text !== null && foldText(text).includes(wanted);
  if (holds(line.body) || holds(line.subject)) return null;
  const file = line.attachments.map(({ name }) => name).find(holds);
  if (file !== undefined) return { where: 'in the name of a file', text: file };
  if (holds(line.note)) return { where: 'in your note', text: line.note };
  const label = line.labels.find(holds);
  if (label !== undefined) return { where: 'in a label', text: label };
  // Numbers are found however they are written, and names of a conversation in all of its lines.
  return holds(line.sender)
    ? { where: 'in who wrote', text: line.sender }
    : { where: 'in the names or numbers of the conversation', text: '' };
}
