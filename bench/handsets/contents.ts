/** Kinds of data that the shallow depths can be narrowed to. */
export const DATA_KINDS = ['messages', 'calls', 'contacts', 'media', 'apps'] as const;
export type DataKind = (typeof DATA_KINDS)[number];

/** A store as it lies on a handset, freed space and all. */
export interface HandsetStore {
  kind: Exclude<DataKind, 'media'>;
  /** The app or domain that owns it. */
  owner: string;
  /** Within what the owner keeps. */
  path: string;
  bytes: Uint8Array;
}

/** A file that a person would call one: pictures, recordings, documents. */
export interface HandsetFile {
  owner: string;
  path: string;
  bytes: Uint8Array;
}

/** Everything on a handset in its first state. */
export interface HandsetContents {
  stores: readonly HandsetStore[];
  media: readonly HandsetFile[];
  /** Files that were deleted, and whose bytes nothing was written over yet. */
  deleted: readonly Uint8Array[];
  /** Milliseconds since 1970, of the last change. */
  at: number;
}
