import { visible } from '../../shown';
import { csvField } from '../formats/csv';
import type { FormatContext, ProducedFile } from '../formats/format';
import { MESSAGE_COLUMNS, messageRows } from '../formats/rows';
import { filesOf, partsOf, type Production, type ProductionFile } from '../model';
import type { MediaShelf, ShelvedFile } from '../media';
import { shown } from '../parts';
import { isCutShort } from '../readable';
import type { LinePlace } from '../stamps';
import { fontsFor, type FontSet, type OpenFont } from './fonts';
import { pictureSize } from '../readable';
import { fileFacts, recordData, type PlacedPicture, type ShownFiles } from './record';
import { TEMPLATE } from './template';
import { volumesOf } from './volumes';

/** What a record became on paper. */
export interface Printed {
  /** Where each line begins. */
  places: ReadonlyMap<string, LinePlace>;
  /** The page on which each exhibit begins, by its label. */
  exhibits: ReadonlyMap<string, number>;
  /** Of all volumes. */
  pages: number;
}

export type PrintEvent =
  | { type: 'progress'; what: string; done: number; total: number }
  | { type: 'file'; file: ProducedFile };

/** Sets a production as PDF, volume by volume. */
export type Printer = (
  production: Production,
  context: FormatContext
) => AsyncGenerator<PrintEvent, Printed>;

/** A document to be set. */
export interface PageJob {
  template: string;
  /** Files that the template reads, by their path. */
  files: ReadonlyMap<string, Uint8Array>;
  fonts: readonly Uint8Array[];
  /** Tells the fonts: jobs of the same key need the same. */
  fontKey: string;
  /** For archives: PDF/A-3b. */
  isArchival: boolean;
  /** Milliseconds since 1970. */
  made: number;
}

/** What the template says of the pages that it became. */
export interface PageFacts {
  pages: number;
  /** Number of each line in the data, and the page on which it begins. */
  places: [line: number, page: number][];
  /** The same of each section. */
  sections: [section: number, page: number][];
}

export interface SetPages extends PageFacts {
  pdf: Uint8Array;
}

/** A picture that cannot be set, by its path. */
export class PictureError extends Error {
  override readonly name = 'PictureError';

  constructor(readonly path: string) {
    super(`The picture ${path} cannot be set.`);
  }
}

/** The engine that sets pages, wherever it runs. */
export interface PageSetter {
  /** @throws PictureError for the first picture that it cannot take apart */
  set(job: PageJob): Promise<SetPages>;
  openFont: OpenFont;
  /** Locks a document with a password (AES with 256 bits). */
  protect(pdf: Uint8Array, password: string): Promise<Uint8Array>;
}

export function printerWith(setter: PageSetter): Printer {
  return (production, context) => printAll(production, context, setter);
}

async function* printAll(
  production: Production,
  context: FormatContext,
  setter: PageSetter
): AsyncGenerator<PrintEvent, Printed> {
  const { settings, time, signal } = context;
  const fonts = await fontsFor(textOf(production), setter.openFont);
  const volumes = volumesOf(production.sections);
  const places = new Map<string, LinePlace>();
  const exhibits = new Map<string, number>();
  let pages = 0;
  for (const [i, sections] of volumes.entries()) {
    const parts = partsOf(sections);
    signal.throwIfAborted();
    yield { type: 'progress', what: 'PDF', done: i, total: volumes.length };
    const volume = {
      number: i + 1,
      of: volumes.length,
      before: pages,
      sections
    };
    const attached = linesOf({ ...production, ...parts }, context);
    const broken = new Set<string>();
    const make = async (): Promise<SetPages & { ids: string[] }> => {
      const { shownFiles, bytes } = await picturesOf(filesOf(parts), context, broken);
      const { data, ids } = recordData(production, volume, settings, time, fonts, shownFiles);
      bytes.set('/record.json', encode(JSON.stringify(data, seen)));
      bytes.set('/lines.csv', attached);
      const job = jobOf(bytes, fonts, settings.pdf.archival, production.head.made);
      return { ...(await setter.set(job)), ids };
    };
    const set = await withoutBroken(make, broken);
    for (const [line, page] of set.places)
      places.set(set.ids[line]!, { volume: i + 1, page: pages + page });
    for (const [section, page] of set.sections) {
      const { label } = sections[section]!;
      if (label !== null && !exhibits.has(label)) exhibits.set(label, pages + page);
    }
    pages += set.pages;
    const { password } = settings.pdf;
    const pdf = password === null ? set.pdf : await setter.protect(set.pdf, password);
    const name =
      volumes.length === 1 ? 'record.pdf' : `record-${String(i + 1).padStart(3, '0')}.pdf`;
    yield { type: 'file', file: { path: name, bytes: pdf } };
  }
  return { places, exhibits, pages };
}

/** Pictures that cannot be taken apart are left out one by one; a placeholder names them. */
async function withoutBroken<T>(make: () => Promise<T>, broken: Set<string>): Promise<T> {
  for (;;) {
    try {
      return await make();
    } catch (error) {
      if (!(error instanceof PictureError) || broken.has(error.path)) throw error;
      broken.add(error.path);
    }
  }
}

const encoder = new TextEncoder();
function encode(text: string): Uint8Array {
  return encoder.encode(text);
}

function jobOf(
  files: ReadonlyMap<string, Uint8Array>,
  fonts: FontSet,
  isArchival: boolean,
  made: number
): PageJob {
  return { template: TEMPLATE, files, fonts: fonts.files, fontKey: fonts.key, isArchival, made };
}

/** All letters of a production, to know which fonts it needs. */
function textOf({
  head,
  sections,
  threads,
  calls,
  contacts,
  files,
  gaps,
  sources
}: Production): string {
  const letters = new Set<string>();
  const add = (text: string): void => {
    for (const char of text) letters.add(char);
  };
  for (const value of Object.values(head)) if (typeof value === 'string') add(value);
  for (const { name } of sources) add(name);
  for (const { title } of sections) add(shown(title));
  for (const { name, carriers } of files) {
    add(shown(name));
    for (const { sender, conversation } of carriers) add(shown(sender) + shown(conversation));
  }
  for (const { who } of gaps) add(shown(who ?? []));
  for (const { title, participants, lines } of threads) {
    add(shown(title));
    for (const { name, address } of participants) add(shown(name) + shown(address));
    for (const line of lines) {
      add(shown(line.body) + shown(line.subject) + shown(line.sender));
      for (const { name } of line.attachments) add(shown(name));
      for (const { who, text } of line.reactions) add(shown(who) + shown(text));
      if (line.place) add(shown(line.place.label));
    }
  }
  for (const { who, address } of calls) add(shown(who) + shown(address));
  for (const { name, organisation, phones, emails } of contacts)
    for (const text of [name, organisation, ...phones, ...emails]) add(shown(text));
  return [...letters].join('');
}

/** The text of every line, exactly, as a table that goes along with the pages. */
function linesOf(production: Production, context: FormatContext): Uint8Array {
  // The stamps are those of the pages, which are only being set.
  const isTold = MESSAGE_COLUMNS.map((column) => column !== 'serial');
  const told = (row: readonly string[]): string[] => row.filter((_, i) => isTold[i]);
  const rows = [told(MESSAGE_COLUMNS).join(',')];
  for (const row of messageRows(production, context)) rows.push(told(row).map(csvField).join(','));
  return encode(`\ufeff${rows.join('\r\n')}\r\n`);
}

const SETTABLE = /^image\/(jpeg|png|gif|webp)$/;
/** Sides of a picture at reading size, in millimetres. */
const WIDEST = 58;
const HIGHEST = 68;

async function picturesOf(
  files: readonly ProductionFile[],
  { media, signal }: FormatContext,
  broken: ReadonlySet<string>
): Promise<{ shownFiles: ShownFiles; bytes: Map<string, Uint8Array> }> {
  const pictures = new Map<string, PlacedPicture>();
  const facts = new Map<string, string>();
  const bytes = new Map<string, Uint8Array>();
  for (const file of files) {
    signal.throwIfAborted();
    const original = await media.get(file);
    const found = typeof original === 'string' ? original : await onPaper(file, original, media);
    const path = typeof found === 'string' ? '' : `/pictures/${found.name}`;
    let note = '';
    if (typeof original !== 'string' && isCutShort(original.bytes, original.mime))
      note = 'the file is cut short';
    if (typeof found !== 'string' && found.mime.startsWith('image/')) {
      const size = SETTABLE.test(found.mime) ? pictureSize(found.bytes, found.mime) : null;
      if (size === null || broken.has(path)) note = 'this picture cannot be shown on paper';
      else {
        bytes.set(path, found.bytes);
        pictures.set(file.id, placed(file, path, size));
      }
    }
    facts.set(file.id, fileFacts(file, original, note));
  }
  return { shownFiles: { pictures, facts }, bytes };
}

/** Of a picture of which nothing can be drawn. */
const NOTHING_TO_DRAW = 'image/x-broken';

/** Pixels past which a picture is scaled down, and those of its longer side then: 400 to the inch at reading size. */
const LARGE = 2_000_000;
const LONGER_SIDE = 1080;

/** What the engine cannot set is set from its readable copy, and large pictures from smaller ones. */
async function onPaper(
  file: ProductionFile,
  original: ShelvedFile,
  media: MediaShelf
): Promise<ShelvedFile> {
  if (!original.mime.startsWith('image/')) return original;
  const isSettable = SETTABLE.test(original.mime);
  if (isCutShort(original.bytes, original.mime))
    // A program that draws the pages may refuse what does not end: what is there is drawn anew.
    return (await media.asFarAsItGoes(file, original)) ?? { ...original, mime: NOTHING_TO_DRAW };
  const found = isSettable ? original : ((await media.readable(original)) ?? original);
  const size = pictureSize(found.bytes, found.mime);
  if (!size || size.width * size.height < LARGE) return found;
  return (await media.smaller(file, found, LONGER_SIDE)) ?? found;
}

function placed(
  file: ProductionFile,
  path: string,
  { width, height }: { width: number; height: number }
): PlacedPicture {
  // Small pictures are not blown up: 96 pixels are an inch.
  const scale = Math.min(WIDEST / width, HIGHEST / height, 25.4 / 96);
  return { path, w: width * scale, h: height * scale, alt: shown(file.name) };
}

/** Halves of characters, which no reader of the data takes, as their code points. */
function seen(_key: string, value: unknown): unknown {
  return typeof value === 'string' && LONE.test(value) ? visible(value) : value;
}

const LONE = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;
