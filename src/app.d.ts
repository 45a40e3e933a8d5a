declare global {
  namespace App {}

  /** Exists in workers only; the page's own library of types does not have it. */
  class FileReaderSync {
    readAsArrayBuffer(blob: Blob): ArrayBuffer;
  }
}

export {};
