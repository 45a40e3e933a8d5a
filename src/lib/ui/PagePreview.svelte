<script lang="ts" module>
  import { PDFWorker } from 'pdfjs-dist';

  /** One reader of pages for all previews: to begin one takes longer than to read. */
  let reader: PDFWorker | null = null;
</script>

<script lang="ts">
  import { getDocument, GlobalWorkerOptions, type PDFDocumentProxy } from 'pdfjs-dist';
  import workerUrl from 'pdfjs-dist/build/pdf.worker.min.mjs?url';
  import { errorText } from '$lib/format';

  interface Props {
    pdf: Uint8Array;
    /** Page that is shown, counted from 1. */
    page: number;
    label: string;
    onfail: (text: string) => void;
    /** Told how many pages there are. */
    onpages?: (pages: number) => void;
  }
  const { pdf, page, label, onfail, onpages }: Props = $props();

  GlobalWorkerOptions.workerSrc = workerUrl;

  let canvas = $state<HTMLCanvasElement | null>(null);
  let width = $state(0);
  let opened = $state.raw<PDFDocumentProxy | null>(null);

  $effect(() => {
    // The viewer takes the bytes that it is given for itself.
    reader ??= new PDFWorker();
    const task = getDocument({ data: pdf.slice(), isEvalSupported: false, worker: reader });
    task.promise
      .then((document) => {
        opened = document;
        onpages?.(document.numPages);
      })
      .catch((error: unknown) => {
        // One that gave way to newer pages has nothing to tell.
        if (!isGone) onfail(errorText(error));
      });
    let isGone = false;
    return () => {
      isGone = true;
      opened = null;
      void task.destroy();
    };
  });

  $effect(() => {
    if (!opened || !canvas || width === 0) return;
    const document = opened;
    const target = canvas;
    let isStale = false;
    void (async () => {
      const shown = await document.getPage(Math.min(page, document.numPages));
      const plain = shown.getViewport({ scale: 1 });
      const dense = Math.min(2, window.devicePixelRatio || 1);
      const viewport = shown.getViewport({ scale: (width / plain.width) * dense });
      const drawn = new OffscreenCanvas(viewport.width, viewport.height);
      await shown.render({
        canvas: null,
        canvasContext: drawn.getContext('2d') as unknown as CanvasRenderingContext2D,
        viewport
      }).promise;
      if (isStale) return;
      // Drawn whole before it is shown, so that a page never stands half empty.
      target.width = drawn.width;
      target.height = drawn.height;
      target.getContext('2d')!.drawImage(drawn, 0, 0);
      target.dataset.page = String(page);
    })().catch((error: unknown) => {
      if (!isStale) onfail(errorText(error));
    });
    return () => {
      isStale = true;
    };
  });
</script>

<div class="printed" bind:clientWidth={width}>
  <canvas bind:this={canvas} aria-label={label}></canvas>
</div>

<style>
  .printed {
    width: min(100%, 620px);
    margin: 0 auto;
    flex: none;
    background: #fff;
    box-shadow: 0 1px 10px rgb(0 0 0 / 0.13);
  }
  canvas {
    display: block;
    width: 100%;
    height: auto;
  }
</style>
