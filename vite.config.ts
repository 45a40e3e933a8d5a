import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';
import { noBuffer } from './scripts/lib/no-buffer.mjs';
import { noEval } from './scripts/lib/no-eval.mjs';

export default defineConfig({
  plugins: [noEval(), noBuffer(), tailwindcss(), sveltekit()],
  worker: { format: 'es', plugins: () => [noEval(), noBuffer()] },
  build: { chunkSizeWarningLimit: 2000 }
});
