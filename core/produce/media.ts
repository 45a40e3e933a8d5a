import type { ProductionFile } from './model';
import { safeFileName } from './names';
import { shown } from './parts';
import {
  coverAreas,
  needsCopy,
  readableCopy,
  smallerPicture,
  UnreadableError,
  type Readable,
  type PictureModules
} from './readable';

/** Gives the bytes of a file by its SHA-256; null where they are not at hand. */
export type OpenFile = (sha256: string) => Promise<Uint8Array | null>;

/** A file's bytes as they go into the package. */
export interface ShelvedFile {
  bytes: Uint8Array;
  mime: string;
  /** The name under which it stands, wherever that is. */
  name: string;
}

/** Why a file is not shown, in words. */
export type NoFile = 'redacted' | 'not in the source' | 'not at hand' | 'cannot be redacted';

const ENDINGS: Record<string, string> = {
  'image/jpeg': 'jpg',
  'image/png': 'png',
  'image/gif': 'gif',
  'image/webp': 'webp',
  'image/heic': 'heic',
  'image/avif': 'avif',
  'image/bmp': 'bmp',
  'image/svg+xml': 'svg.txt',
  'video/mp4': 'mp4',
  'video/quicktime': 'mov',
  'video/3gpp': '3gp',
  'video/webm': 'webm',
  'audio/mpeg': 'mp3',
  'audio/mp4': 'm4a',
  'audio/aac': 'aac',
  'audio/ogg': 'ogg',
  'audio/amr': 'amr',
  'audio/wav': 'wav',
  'application/pdf': 'pdf',
  'text/vcard': 'vcf',
  'text/plain': 'txt'
};

/** A file that no readable copy could be made of. */
export interface NotConverted {
  name: string;
  reason: string;
}

/** Pixels of the longer side of a picture that is set anew because it ends too early. */
const MOST_SIDE = 1080;

/** Results of decoding that are kept for the next format. */
const MOST_KEPT = 16;

/** The files of a production: each is read when it is asked for, once a use, and redacted on the way. */
export class MediaShelf {
  private readonly names = new Map<string, string>();
  private readonly copies = new Map<string, Readable | UnreadableError>();
  private readonly failed = new Map<string, NotConverted>();

  constructor(
    files: Iterable<ProductionFile>,
    private readonly open: OpenFile,
    private readonly modules: PictureModules,
    /** Whether copies are made of what few programs open. */
    readonly isConverting: boolean
  ) {
    for (const file of files) {
      const key = keyOf(file);
      if (key !== null && !this.names.has(key)) this.names.set(key, this.named(file));
    }
  }

  private named(file: ProductionFile): string {
    const name = shown(file.name);
    const ending = endingOf(name, file);
    const bare = name.replace(/\.[^.]{1,5}$/, '');
    return safeFileName(this.names.size + 1, bare, ending, 'file');
  }

  /** A file with its bytes, or why it has none. */
  async get(file: ProductionFile): Promise<ShelvedFile | NoFile> {
    if (file.code !== null) return 'redacted';
    const key = keyOf(file);
    if (key === null || file.sha256 === null) return 'not in the source';
    const bytes = await this.open(file.sha256);
    if (!bytes) return 'not at hand';
    const mime = typeOf(bytes) ?? believable(file.mime) ?? 'application/octet-stream';
    const name = this.names.get(key)!;
    if (file.areas.length === 0) return { bytes, mime, name };
    return (await this.covered(file, { bytes, mime, name })) ?? 'cannot be redacted';
  }

  /** What is covered in part is painted on a copy where its own format cannot be painted on. */
  private async covered(file: ProductionFile, found: ShelvedFile): Promise<ShelvedFile | null> {
    const copy = needsCopy(found.mime, found.bytes) ? await this.copyOf(found) : found;
    if (!copy) return null;
    const bytes = await coverAreas(copy.bytes, copy.mime, file.areas, this.modules);
    return bytes && { ...copy, bytes };
  }

  /** A copy of a file that every program opens; null where it needs none, or none can be made. */
  async readable(found: ShelvedFile): Promise<ShelvedFile | null> {
    if (!this.isConverting || !needsCopy(found.mime, found.bytes)) return null;
    return this.copyOf(found);
  }

  private async copyOf(found: ShelvedFile): Promise<ShelvedFile | null> {
    const made = this.copies.get(found.name) ?? (await this.made(found));
    if (made instanceof UnreadableError) return null;
    const name = found.name.replace(/(\.[^.]{1,5})?$/, `.${made.ending}`);
    return { bytes: made.bytes, mime: made.mime, name };
  }

  private async made({ bytes, mime, name }: ShelvedFile): Promise<Readable | UnreadableError> {
    let result: Readable | UnreadableError;
    try {
      result = (await readableCopy(bytes, mime, this.modules))!;
    } catch (error) {
      if (!(error instanceof UnreadableError)) throw error;
      result = error;
      this.failed.set(name, { name, reason: error.message });
    }
    const [oldest] = this.copies.keys();
    if (this.copies.size >= MOST_KEPT && oldest !== undefined) this.copies.delete(oldest);
    this.copies.set(name, result);
    return result;
  }

  /** A picture that ends too early, as far as it goes; null where nothing of it can be taken apart. */
  async asFarAsItGoes(file: ProductionFile, found: ShelvedFile): Promise<ShelvedFile | null> {
    return this.smaller(file, found, MOST_SIDE);
  }

  /** A picture scaled down to so many pixels on its longer side; null where that cannot be done. */
  async smaller(
    file: ProductionFile,
    found: ShelvedFile,
    side: number
  ): Promise<ShelvedFile | null> {
    const key = `${keyOf(file) ?? file.id} ${found.mime}`;
    const made = await smallerPicture(found.bytes, found.mime, side, key, this.modules);
    if (!made) return null;
    const name = `small-${found.name.replace(/(\.[^.]{1,5})?$/, `.${made.ending}`)}`;
    return { bytes: made.bytes, mime: made.mime, name };
  }

  /** The name under which a file stands, wherever that is; null where it goes along nowhere. */
  nameOf(file: ProductionFile): string | null {
    const key = keyOf(file);
    return key === null ? null : (this.names.get(key) ?? null);
  }

  /** Files of which no readable copy could be made, so far. */
  notConverted(): NotConverted[] {
    return [...this.failed.values()];
  }
}

/** Copies of one file are one, unless parts of them are covered. */
function keyOf({ code, sha256, areas }: ProductionFile): string | null {
  if (code !== null || sha256 === null) return null;
  return areas.length === 0 ? sha256 : `${sha256} ${JSON.stringify(areas)}`;
}

/** The name's own ending where it is a plain one, else that of the type. */
function endingOf(name: string, { mime }: ProductionFile): string {
  const own = /\.([a-z0-9]{1,5})$/i.exec(name)?.[1]?.toLowerCase();
  const known = mime === null ? undefined : ENDINGS[mime];
  // Pages and pictures that can run something are handed over as text.
  if (own !== undefined && !/^(x?html?|svgz?|js|mjs|xml|exe|bat|cmd|sh|scr|com)$/.test(own))
    return own;
  return known ?? 'bin';
}

const SIGNATURES: [string, RegExp][] = [
  ['image/jpeg', /^\xff\xd8\xff/],
  ['image/png', /^\x89PNG\r\n\x1a\n/],
  ['image/gif', /^GIF8[79]a/],
  ['image/webp', /^RIFF[^]{4}WEBP/],
  ['image/avif', /^[^]{4}ftyp(avif|avis|(mif1|msf1)[^]{4}(avif|avis|miafavif))/],
  ['image/heic', /^[^]{4}ftyp(heic|heix|hevc|heim|heis|mif1|msf1)/],
  ['image/bmp', /^BM[^]{4}\0\0\0\0/],
  ['video/mp4', /^[^]{4}ftyp(isom|iso2|mp4[12]|avc1|M4V )/],
  ['audio/mp4', /^[^]{4}ftypM4A/],
  ['video/quicktime', /^[^]{4}ftypqt/],
  ['video/3gpp', /^[^]{4}ftyp3g/],
  ['video/webm', /^\x1aE\xdf\xa3/],
  ['audio/ogg', /^OggS/],
  ['audio/amr', /^#!AMR/],
  ['audio/wav', /^RIFF[^]{4}WAVE/],
  ['audio/mpeg', /^(ID3|\xff[\xe2\xe3\xf2\xf3\xfa\xfb])/],
  ['application/pdf', /^%PDF-/]
];

/** A type that a name or a store gives, where bytes of it need no beginning of their own. */
function believable(mime: string | null): string | null {
  const isPicture = mime !== null && mime.startsWith('image/');
  return isPicture && SIGNATURES.some(([known]) => known === mime) ? null : mime;
}

/** The type of bytes by how they begin; null where that tells nothing. */
export function typeOf(bytes: Uint8Array): string | null {
  const head = String.fromCharCode(...bytes.subarray(0, 24));
  return SIGNATURES.find(([, pattern]) => pattern.test(head))?.[0] ?? null;
}
