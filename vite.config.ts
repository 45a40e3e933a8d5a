import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';
import { noEval } from './scripts/lib/no-eval.mjs';

export default defineConfig({
  plugins: [noEval(), tailwindcss(), sveltekit()],
  worker: { format: 'es', plugins: () => [noEval()] },
  build: { chunkSizeWarningLimit: 2000 }
});
