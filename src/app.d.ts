declare global {
  namespace App {
    interface PageState {
      /** The kind of record that Read shows, so that going back leads to the one before. */
      facet?: import('$lib/service/api/protocol').Facet;
    }
  }

  /** Exists in workers only; the page's own library of types does not have it. */
  class FileReaderSync {
    readAsArrayBuffer(blob: Blob): ArrayBuffer;
  }
}

export {};
