import type { ProductionSection } from '../model';

/** Lines that one document can hold: an engine in a page runs out of stack at some 25,000. */
const MOST_LINES = 5000;

/** Parts a record into volumes; a conversation that is too long goes on in the next. */
export function volumesOf(
  sections: readonly ProductionSection[],
  most = MOST_LINES
): ProductionSection[][] {
  const volumes: ProductionSection[][] = [[]];
  let room = most;
  for (const section of sections) {
    for (const part of piecesOf(section, room, most)) {
      const size = sizeOf(part);
      if (size > room) {
        volumes.push([]);
        room = most;
      }
      volumes[volumes.length - 1]!.push(part);
      room -= size;
    }
  }
  return volumes;
}

function sizeOf(section: ProductionSection): number {
  switch (section.kind) {
    case 'thread':
      return section.thread.lines.length;
    case 'calls':
      return section.calls.length;
    case 'contacts':
      return section.contacts.length;
    case 'files':
      return section.files.length;
    case 'gaps':
      return section.gaps.length;
  }
}

/** A section in pieces: the first as long as there is room for, the others as long as a volume. */
function* piecesOf(
  section: ProductionSection,
  room: number,
  most: number
): Generator<ProductionSection> {
  const size = sizeOf(section);
  let from = 0;
  do {
    const to = Math.min(size, from + (from === 0 && room > 0 ? room : most));
    yield pieceOf(section, from, to, to === size);
    from = to;
  } while (from < size);
}

function pieceOf(
  section: ProductionSection,
  from: number,
  to: number,
  isEnd: boolean
): ProductionSection {
  switch (section.kind) {
    case 'thread': {
      const { thread } = section;
      const gapsAtEnd = isEnd ? thread.gapsAtEnd : [];
      return { ...section, thread: { ...thread, lines: thread.lines.slice(from, to), gapsAtEnd } };
    }
    case 'calls':
      return { ...section, calls: section.calls.slice(from, to) };
    case 'contacts':
      return { ...section, contacts: section.contacts.slice(from, to) };
    case 'files':
      return { ...section, files: section.files.slice(from, to) };
    case 'gaps':
      return { ...section, gaps: section.gaps.slice(from, to) };
  }
}
