import { gapId, OWNER, type Attachment, type FileRecord, type Gap, type Message } from '../records';
import { ChoiceError, Chooser, type ChosenSection } from './choose';
import type { ProductionInput } from './input';
import type { ProductionSection } from './model';
import type { Exhibit, Settings } from './settings';

/** What one heading of a record is about, before it is made ready to be set. */
export type ChosenPart = { label: string | null; name: string | null } & (
  | { kind: 'thread'; chosen: ChosenSection }
  | { kind: 'calls'; ids: ReadonlySet<string> | null }
  | { kind: 'contacts'; ids: ReadonlySet<string> | null }
  | { kind: 'files'; files: (Attachment | FileRecord)[] }
  | { kind: 'gaps'; gaps: Gap[] }
);

/**
 * The parts that settings ask for, in their order: the exhibits, or all that is chosen.
 * @throws ChoiceError where something is named that the case does not hold
 */
export function partsAskedFor(input: ProductionInput, settings: Settings): ChosenPart[] {
  const { choose, exhibits } = settings;
  const chooser = new Chooser(input, choose, settings.zone ?? input.zone);
  if (exhibits)
    return exhibits.flatMap((exhibit, i) => partsOfExhibit(exhibit, `E${i + 1}`, input, chooser));
  const whole = { label: null, name: null };
  const threads = chooser
    .lines(null, choose.context)
    .map((chosen): ChosenPart => ({ ...whole, kind: 'thread', chosen }));
  const others: ChosenPart[] = [];
  if (choose.calls !== false) others.push({ ...whole, kind: 'calls', ids: null });
  if (choose.contacts !== false) others.push({ ...whole, kind: 'contacts', ids: null });
  if (choose.media === true)
    others.push({ ...whole, kind: 'files', files: chooser.looseMedia(sumsOf(threads, input)) });
  const gaps = choose.gaps ? chooser.loneGaps(idsOf(threads)) : [];
  if (gaps.length > 0) others.push({ ...whole, kind: 'gaps', gaps });
  return [...threads, ...others];
}

function idsOf(parts: readonly ChosenPart[]): ReadonlySet<string> {
  return new Set(
    parts.flatMap((part) =>
      part.kind === 'thread'
        ? part.chosen.lines.flatMap(({ message, copies = [] }) => [
            message.id,
            ...copies.map(({ id }) => id)
          ])
        : []
    )
  );
}

function partsOfExhibit(
  exhibit: Exhibit,
  label: string,
  input: ProductionInput,
  chooser: Chooser
): ChosenPart[] {
  const head = { label, name: exhibit.name ?? null };
  switch (exhibit.kind) {
    case 'lines':
      return chooser
        .lines(new Set(exhibit.messages), exhibit.context)
        .map((chosen) => ({ ...head, kind: 'thread', chosen }));
    case 'calls':
      return [{ ...head, kind: 'calls', ids: new Set(exhibit.calls) }];
    case 'contacts':
      return [{ ...head, kind: 'contacts', ids: new Set(exhibit.contacts) }];
    case 'files':
      return [{ ...head, kind: 'files', files: exhibit.files.map((id) => fileOf(id, input)) }];
    case 'gaps': {
      const known = new Map(input.gaps.map((gap) => [gapId(gap), gap]));
      return [{ ...head, kind: 'gaps', gaps: exhibit.gaps.map((id) => there(known, id, 'gap')) }];
    }
  }
}

function fileOf(id: string, { attachments, files }: ProductionInput): Attachment | FileRecord {
  const found = attachments.get(id) ?? files.find((file) => file.id === id);
  if (!found) throw new ChoiceError(`The case holds no file ${JSON.stringify(id)}.`);
  return found;
}

function there<T>(known: ReadonlyMap<string, T>, id: string, what: string): T {
  const found = known.get(id);
  if (found === undefined)
    throw new ChoiceError(`The case holds no ${what} ${JSON.stringify(id)}.`);
  return found;
}

/** Checksums of the files that came with chosen lines. */
function sumsOf(
  parts: readonly ChosenPart[],
  { attachments }: ProductionInput
): ReadonlySet<string | null> {
  const messages = parts.flatMap((part): Message[] =>
    part.kind === 'thread' ? part.chosen.lines.map(({ message }) => message) : []
  );
  return new Set(
    messages.flatMap((message) =>
      message.attachments.map((id) => attachments.get(id)?.sha256 ?? null)
    )
  );
}

/** What parts are called where nobody gave them a name. */
export const PART_TITLES: Record<Exclude<ProductionSection['kind'], 'thread'>, string> = {
  calls: 'Calls',
  contacts: 'Contacts',
  files: 'Files',
  gaps: 'Messages that are missing'
};

/** The people of a conversation but the owner. */
export function othersOf({ section }: ChosenSection): string[] {
  return section.participants.filter((id) => id !== OWNER);
}
