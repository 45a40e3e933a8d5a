import { Zip, ZipDeflate } from 'fflate';
import { inUtc } from '../../shown';
import type { Row } from './sheets';

/**
 * Writes a workbook (Office Open XML, ECMA-376 part 1) row by row: what was
 * written is packed and gone, so that a million rows take no more memory than
 * their packed bytes. Cells are texts and numbers; the first row of a sheet is
 * its bold, frozen heading. The same content gives the same bytes.
 */
export class Workbook {
  private readonly chunks: Uint8Array[] = [];
  private readonly zip = new Zip((error, chunk) => {
    if (error) throw error;
    this.chunks.push(chunk);
  });
  /** Readers look at it first; what it says is known last. */
  private readonly types: ZipDeflate;
  private readonly sheets: string[] = [];

  constructor(private readonly made: Date) {
    this.types = this.entry('[Content_Types].xml');
    this.whole('_rels/.rels', ROOT_RELS);
  }

  /** Adds a sheet. Its name is at most 31 characters long and that of no other. */
  add(
    name: string,
    columns: readonly string[],
    width: (column: string) => number,
    rows: Iterable<Row>
  ): void {
    this.sheets.push(name);
    const text = new PackedText(this.entry(`xl/worksheets/sheet${this.sheets.length}.xml`));
    const widths = columns.map(
      (column, i) => `<col min="${i + 1}" max="${i + 1}" width="${width(column)}" customWidth="1"/>`
    );
    text.write(
      `${HEAD}<worksheet xmlns="${MAIN}">${FROZEN}<cols>${widths.join('')}</cols><sheetData>`
    );
    text.write(rowXml(1, [...columns], ' s="1"'));
    let number = 1;
    for (const row of rows) text.write(rowXml(++number, row, ''));
    text.end('</sheetData></worksheet>');
  }

  /** The finished file. */
  finish(): Uint8Array {
    const of = <T>(make: (name: string, n: number) => T): T[] =>
      this.sheets.map((name, i) => make(name, i + 1));
    const moment = `${this.made.toISOString().slice(0, 19)}Z`;
    this.whole(
      'xl/workbook.xml',
      `${HEAD}<workbook xmlns="${MAIN}" xmlns:r="${RELATIONS}"><sheets>${of(
        (name, n) => `<sheet name="${escaped(name)}" sheetId="${n}" r:id="rId${n}"/>`
      ).join('')}</sheets></workbook>`
    );
    const styles = this.sheets.length + 1;
    this.whole(
      'xl/_rels/workbook.xml.rels',
      `${HEAD}<Relationships xmlns="${PACKAGE}/relationships">${of((_, n) =>
        relation(n, `${RELATIONS}/worksheet`, `worksheets/sheet${n}.xml`)
      ).join('')}${relation(styles, `${RELATIONS}/styles`, 'styles.xml')}</Relationships>`
    );
    this.whole('xl/styles.xml', STYLES);
    this.whole(
      'docProps/core.xml',
      `${HEAD}<cp:coreProperties xmlns:cp="${PACKAGE}/metadata/core-properties" xmlns:dcterms="http://purl.org/dc/terms/" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">${[
        'created',
        'modified'
      ]
        .map((what) => `<dcterms:${what} xsi:type="dcterms:W3CDTF">${moment}</dcterms:${what}>`)
        .join('')}</cp:coreProperties>`
    );
    const sheets = of(
      (_, n) =>
        `<Override PartName="/xl/worksheets/sheet${n}.xml" ContentType="${SHEET}.worksheet+xml"/>`
    );
    new PackedText(this.types).end(
      `${HEAD}<Types xmlns="${PACKAGE}/content-types">${TYPES}${sheets.join('')}</Types>`
    );
    this.zip.end();
    return joined(this.chunks);
  }

  private entry(path: string): ZipDeflate {
    const entry = new ZipDeflate(path, { level: 6 });
    entry.mtime = inUtc(this.made.getTime());
    this.zip.add(entry);
    return entry;
  }

  private whole(path: string, xml: string): void {
    new PackedText(this.entry(path)).end(xml);
  }
}

/** Texts are packed in pieces of about this many characters. */
const PIECE = 1 << 16;

class PackedText {
  private readonly encoder = new TextEncoder();
  private parts: string[] = [];
  private length = 0;

  constructor(private readonly entry: ZipDeflate) {}

  write(text: string): void {
    this.parts.push(text);
    this.length += text.length;
    if (this.length >= PIECE) this.push(false);
  }

  end(text: string): void {
    this.parts.push(text);
    this.push(true);
  }

  private push(isLast: boolean): void {
    this.entry.push(this.encoder.encode(this.parts.join('')), isLast);
    this.parts = [];
    this.length = 0;
  }
}

const HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';
const FORMATS = 'http://schemas.openxmlformats.org';
const MAIN = `${FORMATS}/spreadsheetml/2006/main`;
const RELATIONS = `${FORMATS}/officeDocument/2006/relationships`;
const PACKAGE = `${FORMATS}/package/2006`;
const SHEET = 'application/vnd.openxmlformats-officedocument.spreadsheetml';
const FROZEN =
  '<sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/></sheetView></sheetViews>';
const TYPES = `<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="${SHEET}.sheet.main+xml"/><Override PartName="/xl/styles.xml" ContentType="${SHEET}.styles+xml"/><Override PartName="/docProps/core.xml" ContentType="application/vnd.openxmlformats-package.core-properties+xml"/>`;
/** The first form is that of all cells, the second that of headings. */
const STYLES = `${HEAD}<styleSheet xmlns="${MAIN}"><fonts count="2"><font><sz val="11"/></font><font><b/><sz val="11"/></font></fonts><fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills><borders count="1"><border/></borders><cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="2"><xf xfId="0"/><xf xfId="0" fontId="1" applyFont="1"/></cellXfs></styleSheet>`;
const ROOT_RELS = `${HEAD}<Relationships xmlns="${PACKAGE}/relationships">${relation(1, `${RELATIONS}/officeDocument`, 'xl/workbook.xml')}${relation(2, `${PACKAGE}/relationships/metadata/core-properties`, 'docProps/core.xml')}</Relationships>`;

function relation(n: number, type: string, target: string): string {
  return `<Relationship Id="rId${n}" Type="${type}" Target="${target}"/>`;
}

function rowXml(number: number, cells: Row, style: string): string {
  let xml = `<row r="${number}">`;
  cells.forEach((value, i) => {
    if (value === null || value === '') return;
    const place = `r="${columnName(i)}${number}"${style}`;
    xml +=
      typeof value === 'number'
        ? `<c ${place}><v>${value}</v></c>`
        : `<c ${place} t="inlineStr"><is><t xml:space="preserve">${escaped(value)}</t></is></c>`;
  });
  return `${xml}</row>`;
}

/** A to Z, then AA and so on. */
function columnName(index: number): string {
  const letter = String.fromCharCode(65 + (index % 26));
  return index < 26 ? letter : columnName(Math.floor(index / 26) - 1) + letter;
}

const SIGNS: Record<string, string> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  // Readers of XML would take it for a line end.
  '\r': '&#13;'
};

/**
 * A text as XML holds it. Signs that XML cannot hold stand as `_xHHHH_`, and so
 * does the beginning of what looks like one (part 1, section 22.9.2.19).
 */
function escaped(text: string): string {
  return text
    .replace(/_(?=x[0-9A-Fa-f]{4}_)/g, '_x005F_')
    .replace(
      /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g,
      (sign) => `_x${sign.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}_`
    )
    .replace(/[&<>"\r]/g, (sign) => SIGNS[sign]!);
}

function joined(chunks: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(chunks.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const chunk of chunks) {
    all.set(chunk, at);
    at += chunk.length;
  }
  return all;
}
